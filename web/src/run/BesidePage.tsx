import { useQuery } from "@tanstack/react-query";
import { useEffect, type ReactNode } from "react";
import { Link, useSearchParams } from "react-router";
import { api, need, problemOf, type Run, type Schemas } from "../api/client";
import { clock, day, percent } from "../shell/format";
import { Crumbs } from "../shell/Header";
import { Trouble } from "../shell/Trouble";
import { SIDES } from "./Photos";

type Beside = Schemas["RunsBeside"];
const STAGE = { bare: "as it came off", primed: "primed", painted: "painted" };

/** Two runs beside each other: what was set otherwise, what came of it, and photos from the same side. */
export function BesidePage() {
  const [search] = useSearchParams();
  const [a, b] = [Number(search.get("a")), Number(search.get("b"))];
  const { data, error } = useQuery({
    queryKey: ["run", "beside", a, b],
    queryFn: () => need(api.GET("/api/runs/beside", { params: { query: { a, b } } })),
    enabled: a > 0 && b > 0,
  });
  useEffect(() => {
    document.title = "Two runs · Tenugui";
  }, []);
  if (error) return <Trouble problem={problemOf(error)} />;
  return (
    <main className="min-h-0 flex-1 overflow-y-auto px-8 py-5 max-[1100px]:px-5">
      <Crumbs trail={[{ text: "Log", to: "/log" }, { text: "two runs" }]} />
      <h1 className="text-[27px] leading-tight">What came out otherwise, and what was set so?</h1>
      {!(a > 0 && b > 0) && (
        <p>Two runs are put beside each other from the page of either: open one in the log.</p>
      )}
      {data && <Both data={data} />}
    </main>
  );
}

function Both({ data }: { data: Beside }) {
  const { runs, changed, alike, pins, pairs } = data;
  const row = (name: string, of: (run: Run, k: number) => ReactNode) => (
    <tr key={name} className="border-t border-thread align-top">
      <th scope="row" className="py-1 pr-3 text-left font-normal text-faded">
        {name}
      </th>
      {runs.map((run, k) => (
        <td key={k} className="w-[42%] py-1 pr-3">
          {of(run, k)}
        </td>
      ))}
    </tr>
  );
  const seenOf = (k: number) =>
    pins[k].map((p) => (p.layer == null ? p.words : `${p.words}, layer ${p.layer}`)).join("; ");
  return (
    <>
      <p className="mb-3 max-w-[90ch] text-faded">{wordsOf(data)}</p>
      <table className="w-full max-w-[1100px] text-[14px]" aria-label="Both runs">
        <thead>
          <tr className="text-left">
            <th />
            {runs.map((run, k) => (
              <th key={k} className="pb-1 font-normal">
                <Link className="text-indigo underline" to={`/run/${run.id}`}>
                  run {run.id}
                </Link>{" "}
                of {run.figure_name}, {day(run.started_at)}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {row("on", (run) => `${run.printer_name}, ${run.material_name}`)}
          {row("came to", (run) => run.result ?? "not known yet")}
          {row("told", (run) => `${clock(run.planned_s)}, ${percent(run.planned_risk)} of failing`)}
          {row("took", (run) => (run.real_s == null ? "not timed" : clock(run.real_s)))}
          {row("seen", (_, k) => seenOf(k) || "nothing pinned")}
          {changed.map((c) => (
            <tr key={`${c.where} ${c.name}`} className="border-t border-thread align-top">
              <th scope="row" className="py-1 pr-3 text-left font-normal text-faded">
                {c.where === "plan" ? c.name : `${c.where}: ${c.name.toLowerCase()}`}
              </th>
              <td className="py-1 pr-3">{c.before}</td>
              <td className="py-1 pr-3">{c.now}</td>
            </tr>
          ))}
          {pairs.map((pair) => (
            <tr
              key={`${pair.stage} ${pair.side} ${pair.photos.join(" ")}`}
              className="border-t border-thread align-top"
            >
              <th scope="row" className="py-1 pr-3 text-left font-normal text-faded">
                {STAGE[pair.stage]}, {SIDES.find((s) => s.value === pair.side)?.text}
              </th>
              {pair.photos.map((photo, k) => (
                <td key={k} className="py-1 pr-3">
                  {photo == null ? (
                    <span className="text-faded">none</span>
                  ) : (
                    <img
                      src={`/api/runs/${runs[k].id}/photos/${photo}`}
                      alt={`run ${runs[k].id}, ${pair.stage}, ${pair.side}`}
                      className="max-h-[52vh] w-full object-contain object-left"
                    />
                  )}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      <p className="mt-1 text-[13px] text-faded">{alike} other settings are alike.</p>
    </>
  );
}

/** What may be concluded: one thing changed can be told from another, several at once cannot. */
export function wordsOf({ changed, pairs }: Pick<Beside, "changed" | "pairs">): string {
  const many = changed.length;
  const set =
    many === 0
      ? "Nothing was set otherwise: what differs is luck, wear or the room."
      : many === 1
        ? "One thing was set otherwise, so what differs may come from it."
        : `${many} things were set otherwise: what differs may come from any of them.`;
  const one = "Two prints show a direction, not a rate.";
  const sides = pairs.some((p) => p.side === "not said")
    ? " Say from which side a photo was taken, on its run’s page, and it stands beside the other’s."
    : "";
  return `${set} ${one}${sides}`;
}
