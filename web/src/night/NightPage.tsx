import { useEffect, useState } from "react";
import { useNavigate, useParams } from "react-router";
import { api, need, problemOf } from "../api/client";
import { useDeed } from "../api/memory";
import { useJob } from "../api/queries";
import { clock, day, hour, percent } from "../shell/format";
import { Crumbs } from "../shell/Header";
import { Trouble } from "../shell/Trouble";
import { useNight, useNightDeeds, type Night, type Row } from "./api";
import { LimitFields } from "./LimitFields";
import { inOrder, limitOf, lookFirst, NUMBERS, stateWords, underWay, waysOf } from "./words";

/** The morning's table: the best machine of each figure, and what wants an eye first. */
export function NightPage() {
  const id = Number(useParams().night);
  const night = useNight(id);
  useEffect(() => {
    document.title = "A night's work · Tenugui";
  }, []);
  if (night.error) return <Trouble problem={problemOf(night.error)} />;
  const data = night.data;
  return (
    <main className="min-h-0 flex-1 overflow-y-auto px-8 py-5 max-[1100px]:px-5">
      <Crumbs
        trail={[
          { text: "Over night", to: "/nights" },
          { text: data ? day(data.begun_at) : "a night" },
        ]}
      />
      <h1 className="text-[27px] leading-tight">What did the night bring?</h1>
      {data && <Told night={data} />}
    </main>
  );
}

function Told({ night }: { night: Night }) {
  const deeds = useNightDeeds(night.id);
  const busy = underWay(night);
  const open = night.rows.some((r) => r.state === "open" || r.state === "failed");
  const plates = night.plates.length;
  return (
    <>
      <p className="mb-3 flex flex-wrap items-baseline gap-x-5 gap-y-1">
        <span>
          {night.planned} of {night.rows.length} planned within the limits, {night.looked_first}{" "}
          want a look first
          {plates > 0 &&
            `; ${night.hours.toFixed(1)} hours on ${plates} ${plates === 1 ? "plate" : "plates"}`}
          . Chances are priors, coins at an evening&apos;s rates.
        </span>
        <span className="text-faded">
          begun {day(night.begun_at)}, {hour(night.begun_at)}
        </span>
        {busy && (
          <button
            type="button"
            className="text-indigo underline"
            disabled={deeds.busy}
            onClick={deeds.stop}
          >
            Stop
          </button>
        )}
        {!busy && open && (
          <button type="button" className="take" disabled={deeds.busy} onClick={deeds.goOn}>
            Go on with what is left
          </button>
        )}
      </p>
      <LimitsForm key={JSON.stringify(night.asked)} night={night} onLimits={deeds.limit} />
      <table aria-label="Figures of the night" className="mt-3 w-full border-collapse text-left">
        <thead>
          <tr className="border-b border-thread text-[12.5px] text-faded">
            <th className="py-1 font-normal">figure</th>
            <th className="font-normal">machine, the best first</th>
            {NUMBERS.map(([name]) => (
              <th key={name} className="pl-3 text-right font-normal">
                {name}
              </th>
            ))}
            <th />
            <th className="w-[22%] pl-6 font-normal">to look at first</th>
          </tr>
        </thead>
        {inOrder(night.rows).map((row) => (
          <Figure key={row.figure_id} night={night.id} row={row} />
        ))}
      </table>
      <Plates night={night} />
    </>
  );
}

function LimitsForm({
  night,
  onLimits,
}: {
  night: Night;
  onLimits: (limits: { most_risk: number; most_hours: number }) => void;
}) {
  const asked = night.asked;
  const [risk, setRisk] = useState(asked.most_risk < 1 ? String(100 * asked.most_risk) : "");
  const [hours, setHours] = useState(asked.most_hours < 10_000 ? String(asked.most_hours) : "");
  const share = limitOf(risk, 100);
  const long = limitOf(hours, 10_000);
  return (
    <form
      aria-label="Limits"
      className="flex flex-wrap items-center gap-x-5 gap-y-2"
      onSubmit={(e) => {
        e.preventDefault();
        onLimits({ most_risk: share == null ? 1 : share / 100, most_hours: long ?? 10_000 });
      }}
    >
      <LimitFields risk={risk} hours={hours} onRisk={setRisk} onHours={setHours} />
      <button className="text-indigo underline" disabled={share === null || long === null}>
        hold them to that
      </button>
      {(share === null || long === null) && (
        <span role="alert" className="text-persimmon">
          Up to 100 % and 10,000 hours.
        </span>
      )}
    </form>
  );
}

function Figure({ night, row }: { night: number; row: Row }) {
  const ways = waysOf(row);
  const lines = Math.max(1, ways.length);
  const picture = ways.at(0)?.way.picture;
  const name = (
    <th scope="rowgroup" rowSpan={lines} className="w-56 py-2 pr-4 align-top font-normal">
      <span className="flex items-center gap-3">
        {picture && (
          <img
            src={`/api/blobs/${picture}`}
            alt={`${row.name} on its supports`}
            className="h-20 w-16 object-contain"
            loading="lazy"
          />
        )}
        <span>
          <span className="font-display text-[16px]">{row.name}</span>
          <br />
          <span className="text-[12.5px] text-faded">
            {row.row?.size_mm.map((v) => v.toFixed(0)).join(" × ")}
            {row.row ? " mm" : stateWords(row)}
          </span>
        </span>
      </span>
    </th>
  );
  const look = (
    <td rowSpan={lines} className="py-2 pl-6 align-top text-[13.5px]">
      <ul>
        {lookFirst(row).map((said) => (
          <li key={said}>{said}</li>
        ))}
      </ul>
    </td>
  );
  return (
    <tbody className="border-b border-thread">
      {ways.length === 0 && (
        <tr>
          {name}
          <td colSpan={NUMBERS.length + 2} />
          {look}
        </tr>
      )}
      {ways.map(({ way, place, named }, k) => (
        <tr key={place} className={`align-top ${named ? "" : "text-faded"}`}>
          {k === 0 && name}
          <td className="py-2">
            <span
              className={`mr-2 inline-block size-2 rounded-full ${named ? "bg-indigo" : ""}`}
              aria-hidden
            />
            {way.printer}
            {named && <span className="sr-only">, the best</span>}{" "}
            <span className="text-[12.5px] text-faded">{way.material}</span>
            {way.beyond.length > 0 && (
              <span className="block pl-4 text-[12.5px] text-persimmon">
                {way.beyond.join("; ")}
              </span>
            )}
          </td>
          {NUMBERS.map(([what, of]) => (
            <td key={what} className="py-2 pl-3 text-right tabular-nums">
              {of(way)}
            </td>
          ))}
          <td className="py-2 pl-5 whitespace-nowrap">
            <Take night={night} row={row} way={place} on={way.printer} />
          </td>
          {k === 0 && look}
        </tr>
      ))}
    </tbody>
  );
}

function Take(props: { night: number; row: Row; way: number; on: string }) {
  const go = useNavigate();
  const [job, setJob] = useState<number | null>(null);
  const [plan, setPlan] = useState<number | null>(null);
  const take = useDeed("figures", () =>
    need(
      api.POST("/api/nights/{number}/take", {
        params: { path: { number: props.night } },
        body: { figure_id: props.row.figure_id, way: props.way },
      }),
    ),
  );
  const running = useJob(job, () => void go(`/plan/${plan}/proof`));
  if (job != null)
    return <span className="text-faded">Opening it {running && percent(running.share)}</span>;
  return (
    <button
      type="button"
      className="text-indigo underline"
      disabled={take.isPending}
      aria-label={`Open ${props.row.name} on ${props.on} as a plan`}
      onClick={() =>
        take.mutate(undefined, {
          onSuccess: (taken) => {
            setPlan(taken.plan_id);
            setJob(taken.job_id);
          },
        })
      }
    >
      open as a plan
    </button>
  );
}

function Plates({ night }: { night: Night }) {
  if (!night.plates.length && !night.unplaced.length) return null;
  return (
    <section aria-label="Plates of the night" className="mt-5">
      <h2 className="text-[18px]">Laid on plates</h2>
      <ol className="list-decimal pl-5">
        {night.plates.map((p, k) => (
          <li key={k}>
            {p.printer}, {p.material}: {p.pieces.join(", ")}; {clock(p.time_s)}, {percent(p.risk)}{" "}
            that not all come off whole
          </li>
        ))}
      </ol>
      {night.unplaced.map((said) => (
        <p key={said} className="text-persimmon">
          {said}
        </p>
      ))}
    </section>
  );
}
