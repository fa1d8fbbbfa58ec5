import { useEffect } from "react";
import { Link, useParams, useSearchParams } from "react-router";
import { api, need, problemOf, type Schemas } from "../api/client";
import { useAble, useBringIn, useDeed, type MachinePage } from "../api/memory";
import { useHazardKinds } from "../api/queries";
import { Crumbs } from "../shell/Header";
import { Trouble } from "../shell/Trouble";
import { BringFile } from "../ui/BringFile";
import { Pick } from "../ui/Pick";
import { Ability } from "./Ability";
import { Calibration } from "./Calibration";
import { Hands } from "./Hands";

/** What one machine can do in one material: the most personal knowledge that there is. */
export function AblePage() {
  const { printer: id = "0" } = useParams();
  const [search, setSearch] = useSearchParams();
  const material = Number(search.get("material")) || null;
  const page = useAble(Number(id), material);
  const name = page.data?.printer.name;
  useEffect(() => {
    document.title = `What ${name ?? "it"} can do · Tenugui`;
  }, [name]);
  if (page.error) return <Trouble problem={problemOf(page.error)} />;
  if (!page.data) return <p className="p-10 text-faded">Reading its log</p>;
  return (
    <Machine page={page.data} onMaterial={(m) => setSearch({ material: m }, { replace: true })} />
  );
}

/** What its log comes to, in one line. */
export function lineOf({ runs, simulated, hours }: MachinePage): string {
  const pretended = simulated ? `; ${simulated} on its simulated self teach nothing` : "";
  if (!runs) return `No real print of it is logged in this material yet${pretended}.`;
  const [ratio, low, high] = [hours.ratio, hours.next_low, hours.next_high].map((v) =>
    v.toFixed(2),
  );
  const next = `the next print ${low} to ${high}`;
  const took = hours.timed
    ? ` It takes ${ratio} times the planned hours, from ${hours.timed} timed; ${next}.`
    : "";
  return `${runs} ${runs === 1 ? "print" : "prints"} logged${pretended}.${took}`;
}

function Machine({ page, onMaterial }: { page: MachinePage; onMaterial: (id: string) => void }) {
  const { printer, material, materials, abilities } = page;
  return (
    <main className="min-h-0 flex-1 overflow-y-auto px-8 py-5 max-[1100px]:px-5">
      <Crumbs trail={[{ text: "Shelf", to: "/shelf" }, { text: `what ${printer.name} can do` }]} />
      <div className="flex flex-wrap items-baseline gap-4">
        <h1 className="text-[27px] leading-tight">What can {printer.name} do?</h1>
        <Pick
          label="In which material"
          value={String(material.id)}
          options={materials.map((m) => ({ value: String(m.id), text: `in ${m.name}` }))}
          onValue={onMaterial}
        />
      </div>
      <p className="mb-3 max-w-[95ch] text-faded">
        {lineOf(page)} What you know of it counts too, and is shown as your word.{" "}
        <Link className="text-indigo underline" to="/series">
          Ask it by a series
        </Link>
      </p>
      <div className="flex flex-wrap items-start gap-x-10 gap-y-5">
        <ul aria-label="Capabilities" className="min-w-[520px] flex-[2]">
          {abilities.map((ability) => (
            <Ability key={ability.code} page={page} ability={ability} />
          ))}
        </ul>
        <div className="min-w-80 flex-1">
          <Scatter page={page} />
          <Hands page={page} />
          <Causes page={page} />
          <Calibration read={page.calibration} />
          <SeenOut />
        </div>
      </div>
    </main>
  );
}

/** What was seen of all machines, out to another bench and in from one. */
function SeenOut() {
  const bring = useBringIn("able", "/api/seen");
  return (
    <section aria-label="Out and in" className="mt-4">
      <h2 className="text-[18px]">Out and in</h2>
      <p className="mb-1 text-[13.5px]">
        What was seen of all machines,{" "}
        <a className="text-indigo underline" href="/api/seen.csv">
          as CSV
        </a>{" "}
        or{" "}
        <a className="text-indigo underline" href="/api/seen.json">
          as JSON
        </a>
        ; another bench’s is taken by the machines’ names.
      </p>
      <BringFile
        text="Bring in what was seen"
        label="What was seen, as CSV or JSON"
        accept=".csv,.json,text/csv,application/json"
        onFile={(file) => bring.mutate(file)}
      />
    </section>
  );
}

/** How much its prints differ: prior and learned, taken over by one click. */
function Scatter({ page }: { page: MachinePage }) {
  const { printer, material, scatter, scatter_set, scatter_taken_id } = page;
  const path = { number: printer.id };
  const take = useDeed(
    "able",
    () =>
      need(
        api.POST("/api/printers/{number}/able/take", {
          params: { path },
          body: { material_id: material.id, what: "scatter" },
        }),
      ),
    "Taken over: plans count with it from now on.",
  );
  const undo = useDeed("able", (taken: number) =>
    need(
      api.POST("/api/printers/{number}/able/undo/{taken}", {
        params: { path: { ...path, taken } },
      }),
    ),
  );
  return (
    <section aria-label="How much its prints differ" className="mb-4">
      <h2 className="text-[18px]">How much its prints differ</h2>
      <p>
        Plans count with {scatter_set} times as much as usual.{" "}
        {scatter ? (
          <>
            Its log says {scatter.times.toFixed(2)}, from {scatter.low.toFixed(2)} to{" "}
            {scatter.high.toFixed(2)}: of {scatter.prints} prints {scatter.failed} failed, where{" "}
            {scatter.feared.toFixed(1)} were expected.
          </>
        ) : (
          "Six outcomes at least are needed before its log says anything."
        )}
      </p>
      <div className="mt-1 flex gap-2">
        {scatter && scatter_taken_id == null && (
          <button type="button" className="quiet" onClick={() => take.mutate(undefined)}>
            Count with {scatter.times.toFixed(2)}
          </button>
        )}
        {scatter_taken_id != null && (
          <button type="button" className="quiet" onClick={() => undo.mutate(scatter_taken_id)}>
            Put back
          </button>
        )}
      </div>
    </section>
  );
}

/** Which causes come true more often here than plans tell. */
function Causes({ page }: { page: MachinePage }) {
  const { causes, causes_from, printer, material } = page;
  const kinds = useHazardKinds();
  const path = { number: printer.id };
  const take = useDeed(
    "able",
    (cause: string) =>
      need(
        api.POST("/api/printers/{number}/able/take", {
          params: { path },
          body: { material_id: material.id, what: `cause ${cause}` },
        }),
      ),
    "Taken over: plans count with it from now on.",
  );
  const undo = useDeed("able", (taken: number) =>
    need(
      api.POST("/api/printers/{number}/able/undo/{taken}", {
        params: { path: { ...path, taken } },
      }),
    ),
  );
  const told = causes
    .filter((c) => c.seen > 0 || c.effective >= 0.3 || c.taken_id != null)
    .slice(0, 8);
  return (
    <section aria-label="What comes true here" className="mb-4">
      <h2 className="text-[18px]">What comes true here</h2>
      {!causes_from && (
        <p className="text-faded">
          Say of what failed which hazard came true: then this tells which causes your machine has
          more of than usual.
        </p>
      )}
      {told.length > 0 && (
        <table className="board" aria-label="Causes">
          <thead>
            <tr>
              <th>cause</th>
              <th>came true</th>
              <th>told</th>
              <th>times as often</th>
              <th>times the load</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {told.map((c) => {
              const name = kinds[c.cause]?.name ?? c.cause;
              return (
                <tr key={c.cause}>
                  <td className="text-[14px]!">{name}</td>
                  <td>{c.seen}</td>
                  <td>{c.effective.toFixed(1)}</td>
                  <td className={c.low > 1 ? "text-persimmon" : ""}>
                    {c.mean.toFixed(1)}
                    <span className="block text-[12px] text-faded">
                      {c.low.toFixed(1)} to {c.high.toFixed(1)}
                    </span>
                  </td>
                  <td className={c.sure && (c.load_low ?? 0) > 1 ? "text-persimmon" : ""}>
                    {c.load_times?.toFixed(2) ?? "no load"}
                    {c.load_low != null && c.load_high != null && (
                      <span className="block text-[12px] text-faded">
                        {c.load_low.toFixed(1)} to {c.load_high.toFixed(1)}
                      </span>
                    )}
                  </td>
                  <td>
                    {c.taken_id != null ? (
                      <button
                        type="button"
                        className="quiet"
                        aria-label={`Count with ${name} as before`}
                        onClick={() => c.taken_id != null && undo.mutate(c.taken_id)}
                      >
                        as before
                      </button>
                    ) : (
                      c.sure && (
                        <button
                          type="button"
                          className="quiet"
                          aria-label={`Count with ${name} so`}
                          title={countsAs(c)}
                          onClick={() => take.mutate(c.cause)}
                        >
                          count with it
                        </button>
                      )
                    )}
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      )}
    </section>
  );
}

/** What taking it over changes. */
export const countsAs = ({ load, mean }: Pick<Schemas["CauseRow"], "load" | "mean">) =>
  load == null
    ? `Plans tell it ${mean.toFixed(1)} times as often; supports and boards weigh it so.`
    : `A load ${load.toFixed(2)} times as large: supports are placed for it, and the thousand prints pull with it.`;
