import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { api, need, problemOf, type PlanState, type Schemas } from "../api/client";
import { useDeedJob } from "../api/deed";
import { useComputation, usePlan } from "../api/queries";
import { foldOf } from "../folds/types";
import { Crumbs } from "../shell/Header";
import { Trouble } from "../shell/Trouble";
import { useView } from "../shell/view";
import { Choice } from "../ui/Choice";
import { Slide } from "../ui/Slide";
import { CutTable } from "./CutTable";
import { across, moved, turned, wordsOf, type Cut, type Parted } from "./place";

type Size = Extract<Schemas["SizeChoice"], { fold?: "size" }>;

/** A figure cut into a kit: where a limb hangs, hidden and narrow, and what that takes. */
export function CutPage() {
  const { plan: id = "0" } = useParams();
  const plan = usePlan(Number(id));
  useEffect(() => {
    document.title = `${plan.data?.figure_name ?? "A figure"}, cut into parts · Tenugui`;
  }, [plan.data?.figure_name]);
  if (plan.error) return <Trouble problem={problemOf(plan.error)} />;
  if (!plan.data) return <p className="p-10 text-faded">Fetching the figure</p>;
  const size = foldOf(plan.data, "size").choice;
  if (!size)
    return (
      <main className="p-10">
        <p>
          A figure is cut at its size.{" "}
          <Link className="text-indigo underline" to={`/plan/${id}/size`}>
            Settle it first
          </Link>
          .
        </p>
      </main>
    );
  return <Cutting key={id} plan={plan.data} size={size} />;
}

function Cutting({ plan, size }: { plan: PlanState; size: Size }) {
  const path = { params: { path: { number: plan.id } } };
  const proposed = useComputation<Schemas["CutsDoc"]>(["cuts", plan.id, size], {
    look: () => need(api.GET("/api/plans/{number}/cuts", path)),
    start: () => need(api.POST("/api/plans/{number}/cuts", path)),
  });
  const rows = proposed.document?.proposals ?? [];
  const [base, setBase] = useState<Cut | null>(null);
  const [at, setAt] = useState(0);
  const [shift, setShift] = useState(0);
  const [tilt, setTilt] = useState(0);
  const [peg, setPeg] = useState(true);
  const [apart, setApart] = useState(false);
  const up = size.up ?? [0, 0, 1];
  const ways = across(up);
  const first = base ?? (rows.at(at) ? { ...rows[at].plane, peg } : null);
  const cut = first ? { ...moved(turned(first, ways.depth, tilt), shift), peg } : null;
  const put = (to: Cut | null) => {
    setBase(to);
    setShift(0);
    setTilt(0);
    setApart(false);
  };
  const parts = useParted(plan, cut, apart);
  const fit = proposed.document?.fit;
  return (
    <>
      <Crumbs
        trail={[{ text: plan.figure_name, to: `/plan/${plan.id}` }, { text: "cut into parts" }]}
      />
      <main className="unfolded min-h-0 flex-1 px-8 py-5 max-[1100px]:px-5">
        <CutTable
          sha={size.preview_sha}
          up={up}
          factor={size.factor}
          cut={cut}
          parted={parts.document}
          apart={apart}
          label={`${plan.figure_name} and where it is cut`}
          onPick={(point) =>
            put({ point, normal: base?.normal ?? rows.at(at)?.plane.normal ?? ways.up, peg })
          }
        />
        <div className="min-h-0 overflow-y-auto pr-1">
          <h1 className="text-[27px] leading-tight">Where does it come apart best?</h1>
          <p className="mb-3 text-faded">
            A limb that is printed by itself has a pose of its own; its joint wants glue and, where
            it is seen, filler: minutes are priors. No seam runs through a face.{" "}
            {fit &&
              `Pegs get ${fit.clearance_mm} mm of air${fit.known ? ", as this machine was seen to need" : " (prior)"}.`}
          </p>
          {proposed.waiting && <p className="text-faded">Looking where limbs hang</p>}
          {proposed.problem && <p role="alert">{proposed.problem.message}</p>}
          {proposed.document?.refused && (
            <p>{proposed.document.refused} Click a place of your own.</p>
          )}
          {rows.length > 0 && (
            <ul aria-label="Places to cut" className="mb-3">
              {rows.map((row, k) => (
                <li key={row.plane.point.join()} className="border-b border-thread">
                  <button
                    type="button"
                    aria-pressed={!base && k === at}
                    className="flex w-full items-baseline gap-4 px-2 py-1.5 text-left hover:bg-paper aria-pressed:bg-paper aria-pressed:font-medium"
                    onClick={() => {
                      setAt(k);
                      put(null);
                    }}
                  >
                    <span className="flex-1">{row.said}</span>
                    <span className="text-faded">{row.minutes.toFixed(0)} min</span>
                  </button>
                </li>
              ))}
            </ul>
          )}
          {cut && (
            <>
              <div className="mb-2 flex flex-wrap items-center gap-3">
                <span className="text-[13px] text-faded">cut across</span>
                <Choice
                  label="Across which direction"
                  value=""
                  options={[
                    { value: "up", text: "its height" },
                    { value: "side", text: "its width" },
                    { value: "depth", text: "its depth" },
                  ]}
                  onValue={(way) =>
                    put({ point: cut.point, normal: ways[way as keyof typeof ways], peg })
                  }
                  small
                />
              </div>
              <Moved
                label="Moved along"
                value={shift}
                most={Math.max(5, size.height_mm / 8)}
                unit="mm"
                onValue={(mm) => {
                  setApart(false);
                  setShift(mm);
                }}
              />
              <Moved
                label="Tilted"
                value={tilt}
                most={60}
                unit="°"
                onValue={(degrees) => {
                  setApart(false);
                  setTilt(degrees);
                }}
              />
              <label className="my-2 flex items-center gap-2">
                <input type="checkbox" checked={peg} onChange={(e) => setPeg(e.target.checked)} />
                with a keyed peg where there is room
              </label>
              <button type="button" className="quiet" onClick={() => setApart(!apart)}>
                {apart ? "Together again" : "Try this cut"}
              </button>
              {apart && parts.waiting && <p className="mt-2 text-faded">Cutting</p>}
              {apart && parts.problem && (
                <p role="alert" className="mt-2">
                  {parts.problem.message} {parts.problem.remedy}
                </p>
              )}
              {apart && parts.document && <Made plan={plan} cut={cut} parted={parts.document} />}
            </>
          )}
        </div>
      </main>
    </>
  );
}

function Moved({
  label,
  value,
  most,
  unit,
  onValue,
}: {
  label: string;
  value: number;
  most: number;
  unit: string;
  onValue: (value: number) => void;
}) {
  return (
    <div className="flex items-center gap-3">
      <span className="w-24 text-[13px] text-faded">{label}</span>
      <Slide
        label={label}
        value={value}
        min={-most}
        max={most}
        step={unit === "mm" ? 0.25 : 1}
        said={`${value} ${unit}`}
        onValue={onValue}
      />
      <span className="w-16 text-right text-[13px]">
        {value.toFixed(unit === "mm" ? 2 : 0)} {unit}
      </span>
    </div>
  );
}

function useParted(plan: PlanState, cut: Cut | null, enabled: boolean) {
  const ask = (start: boolean) =>
    need(
      api.POST("/api/plans/{number}/cuts/look", {
        params: { path: { number: plan.id }, query: { start } },
        body: cut ?? { point: [0, 0, 0], normal: [0, 0, 1], peg: false },
      }),
    );
  return useComputation<Parted>(
    ["parted", plan.id, cut],
    { look: () => ask(false), start: () => ask(true) },
    enabled && cut !== null,
  );
}

/** What the cut comes to, and both parts made figures of a kit. */
function Made({ plan, cut, parted }: { plan: PlanState; cut: Cut; parted: Parted }) {
  const { fail, say } = useView();
  const go = useNavigate();
  const [names, setNames] = useState<[string, string]>([
    `${plan.figure_name} body`,
    `${plan.figure_name} limb`,
  ]);
  const [job, setJob] = useState<number | null>(null);
  const path = { params: { path: { number: plan.id } } };
  const kits = useQuery({
    queryKey: ["cut kits", plan.id],
    queryFn: () => need(api.GET("/api/plans/{number}/cuts/kits", path)),
  });
  const { busy } = useDeedJob(job, () => {
    need(api.GET("/api/plans/{number}/cuts/kits", path)).then(([kit]) => {
      say({ text: "Both parts are figures of a kit, at the size it had." });
      void go(`/kit/${kit.id}`);
    }, fail);
  });
  const wide = parted.parts.filter((p) => !p.fits).length;
  return (
    <section aria-label="What the cut comes to" className="mt-3 space-y-2">
      <p>{wordsOf(parted)}</p>
      {wide > 0 && (
        <p>
          {wide === 2 ? "Neither part fits" : "One part does not fit"} the machine as it stands.
        </p>
      )}
      <div className="flex flex-wrap gap-3">
        {names.map((name, k) => (
          <label key={k}>
            <span className="mr-2 text-[13px] text-faded">{k ? "the limb" : "the body"}</span>
            <input
              className="field w-52"
              maxLength={120}
              value={name}
              onChange={(e) =>
                setNames(k ? [names[0], e.target.value] : [e.target.value, names[1]])
              }
            />
          </label>
        ))}
      </div>
      <button
        type="button"
        className="take"
        disabled={busy || names.some((n) => !n.trim())}
        onClick={() =>
          need(api.POST("/api/plans/{number}/cuts/kit", { ...path, body: { ...cut, names } })).then(
            setJob,
            fail,
          )
        }
      >
        {busy ? "Cutting it" : "Make the kit"}
      </button>
      {kits.data?.map((kit) => (
        <p key={kit.id} className="text-[13.5px]">
          Cut before:{" "}
          <Link className="text-indigo underline" to={`/kit/${kit.id}`}>
            {kit.name}
          </Link>
        </p>
      ))}
    </section>
  );
}
