import { useEffect, useState } from "react";
import { Link, useNavigate } from "react-router";
import { api, need, problemOf, type Run, type Schemas } from "../api/client";
import { useBringIn } from "../api/memory";
import { useLog } from "../api/queries";
import { day, hm, hour, percent, timesPlanned } from "../shell/format";
import { Crumbs } from "../shell/Header";
import { Trouble } from "../shell/Trouble";
import { useView } from "../shell/view";
import { BringFile } from "../ui/BringFile";
import { Board, type Column } from "../ui/Board";

const COLUMNS: Column<Run>[] = [
  {
    id: "printer",
    head: "printer, material",
    name: "on",
    left: true,
    from: 900,
    cell: (r) => (
      <span className="text-[13.5px] text-faded">
        {r.printer_name}, {r.material_name}
      </span>
    ),
  },
  {
    id: "planned",
    head: (
      <>
        planned
        <br />
        h:min
      </>
    ),
    name: "planned h:min",
    from: 620,
    cell: (r) => hm(r.planned_s),
  },
  {
    id: "real",
    head: (
      <>
        real
        <br />
        h:min
      </>
    ),
    name: "real h:min",
    from: 620,
    cell: (r) => (r.real_s ? hm(r.real_s) : ""),
  },
  {
    id: "planned-g",
    head: (
      <>
        planned
        <br />g
      </>
    ),
    name: "planned g",
    from: 760,
    cell: (r) => r.planned_g.toFixed(0),
  },
  {
    id: "real-g",
    head: (
      <>
        real
        <br />g
      </>
    ),
    name: "real g",
    from: 760,
    cell: (r) => (r.real_g ? r.real_g.toFixed(0) : ""),
  },
  {
    id: "risk",
    head: (
      <>
        planned
        <br />
        risk
      </>
    ),
    name: "planned risk",
    from: 680,
    cell: (r) => percent(r.planned_risk),
  },
  {
    id: "outcome",
    head: "outcome",
    left: true,
    cell: (r) => (
      <span
        className={r.result === "good" ? "text-moss" : r.result ? "text-persimmon" : "text-faded"}
      >
        {r.result ?? "running or not logged"}
        {r.failed_layer ? `, layer ${r.failed_layer}` : ""}
      </span>
    ),
  },
];

/** What the outcomes say together, against what the plans said. */
function lineOf({
  outcomes,
  whole,
  predicted_whole,
  time_ratio,
  time_spread,
  timed,
  few,
}: Schemas["Reading"]): string {
  if (!outcomes) return "No outcome has been logged yet. Start a run in a plan's fold Log.";
  const came = `${whole} of ${outcomes} came out whole; the plans predicted ${predicted_whole.toFixed(1)} (prior).`;
  const spread = time_spread == null ? "" : `, give or take ${(time_spread * 100).toFixed(0)} %`;
  const took =
    time_ratio == null ? "" : ` ${timed} were timed: ${timesPlanned(time_ratio)}${spread}.`;
  return `${came}${took}${few ? " So few prints show a direction, not yet a rate." : ""}`;
}

/** A run by the number of its label, and the log taken away. */
function Finding() {
  const go = useNavigate();
  const { fail } = useView();
  const [text, setText] = useState("");
  const bring = useBringIn("runs", "/api/runs");
  return (
    <form
      className="mb-4 flex flex-wrap items-center gap-3"
      onSubmit={(e) => {
        e.preventDefault();
        need(api.GET("/api/runs/find", { params: { query: { text } } })).then(
          (id) => void go(`/run/${id}`),
          fail,
        );
      }}
    >
      <label>
        <span className="mr-2 text-[13px] text-faded">a label's number, typed or scanned</span>
        <input
          className="field w-44"
          maxLength={200}
          value={text}
          onChange={(e) => setText(e.target.value)}
        />
      </label>
      <button className="quiet" disabled={!text.trim()}>
        Find the run
      </button>
      <span className="text-[13.5px]">
        <a className="mr-4 text-indigo underline" href="/api/log.csv">
          the log as CSV
        </a>
        <a className="mr-4 text-indigo underline" href="/api/log.json">
          as JSON
        </a>
        <a className="mr-4 text-indigo underline" href="/api/runs.json">
          with all that was set
        </a>
      </span>
      <BringFile
        text="Bring a log in"
        label="A log as CSV or JSON"
        accept=".csv,.json,text/csv,application/json"
        onFile={(file) => bring.mutate(file)}
      />
    </form>
  );
}

/** Every run, what was planned and what became of it. */
export function LogPage() {
  const log = useLog();
  useEffect(() => {
    document.title = "Log · Tenugui";
  }, []);
  if (log.error) return <Trouble problem={problemOf(log.error)} />;
  return (
    <main className="min-h-0 flex-1 overflow-y-auto px-8 py-5 max-[1100px]:px-5">
      <Crumbs trail={[{ text: "Log" }]} />
      <h1 className="text-[27px] leading-tight">What the prints have told</h1>
      <p className="mb-4 max-w-[90ch] text-faded">
        {log.data ? lineOf(log.data.reading) : "Opening the log"}
      </p>
      <Finding />
      {!!log.data?.runs.length && (
        <Board
          label="Runs"
          textHead="figure"
          rows={log.data.runs}
          keyOf={(r) => String(r.id)}
          columns={COLUMNS}
          text={(r) => (
            <>
              {r.plan_id ? (
                <Link
                  className="text-indigo underline underline-offset-2"
                  to={`/plan/${r.plan_id}/log`}
                >
                  {r.figure_name}
                </Link>
              ) : (
                r.figure_name
              )}
              <Link
                className="ml-3 text-[12.5px] text-faded underline underline-offset-2"
                to={`/run/${r.id}`}
              >
                run {r.id}
              </Link>
              <span className="ml-3 text-[12.5px] text-faded">
                {day(r.started_at)}, {hour(r.started_at)}
              </span>
              {r.note && <span className="block text-[13px] text-faded">{r.note}</span>}
            </>
          )}
        />
      )}
    </main>
  );
}
