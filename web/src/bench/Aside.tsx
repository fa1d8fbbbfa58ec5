import type { ReactNode } from "react";
import { Link } from "react-router";
import { api, type JobState, type Machine, type Run, type Schemas } from "../api/client";
import { Progress } from "../folds/Waiting";
import { count, day, hour } from "../shell/format";

const MOST_LATELY = 6;
const MOST_JOBS = 5;

function Section({ id, title, children }: { id: string; title: string; children: ReactNode }) {
  return (
    <section aria-labelledby={id}>
      <h2 id={id} className="mb-1 text-[19px]">
        {title}
      </h2>
      {children}
    </section>
  );
}

const ROW = "flex items-baseline justify-between gap-3";

/** A run by its figure; one whose figure is deleted stays in the log without a way to it. */
function RunLine({ run, children }: { run: Run; children: ReactNode }) {
  return (
    <li className="border-b border-thread py-1.5">
      {run.plan_id ? (
        <Link to={`/plan/${run.plan_id}/log`} className={ROW}>
          {children}
        </Link>
      ) : (
        <span className={ROW}>{children}</span>
      )}
    </li>
  );
}

/** What is being worked out, how far it is, and a way to stop it. */
export function UnderWay({ jobs }: { jobs: JobState[] }) {
  if (!jobs.length) return null;
  const more = jobs.length - MOST_JOBS;
  return (
    <Section id="under-way" title="Being worked out">
      <ul>
        {jobs.slice(0, MOST_JOBS).map((j) => (
          <li key={j.id} className="border-b border-thread py-1.5">
            <span className={ROW}>
              <span className="min-w-0 truncate">{j.title}</span>
              <button
                type="button"
                className="text-[12.5px] text-indigo underline underline-offset-2"
                aria-label={`Cancel: ${j.title}`}
                onClick={() =>
                  void api.DELETE("/api/jobs/{number}", { params: { path: { number: j.id } } })
                }
              >
                cancel
              </button>
            </span>
            {j.state === "running" ? (
              <Progress share={j.share} label={j.title} />
            ) : (
              <span className="text-[12.5px] text-faded">waits its turn</span>
            )}
          </li>
        ))}
      </ul>
      {more > 0 && <p className="pt-1 text-[12.5px] text-faded">and {more} more that wait</p>}
    </Section>
  );
}

/** How far a simulated machine is with a run, or what it came to. */
function Live({ on }: { on: Schemas["MachineOfPlan"] }) {
  const state = on.state;
  if (!state) return <span className="text-persimmon">its machine does not answer</span>;
  return (
    <span className={state.seen ? "text-persimmon" : "text-faded"}>
      {state.seen
        ? `${state.state}: log the outcome`
        : `${state.state}, layer ${count(state.layer)} of ${count(state.layers)}`}
    </span>
  );
}

export function Printing({
  runs,
  machines,
}: {
  runs: Run[];
  machines: Schemas["MachineOfPlan"][];
}) {
  const open = runs.filter((r) => !r.result);
  const over = (r: Run) => new Date(r.ends_at) < new Date();
  const liveOf = (r: Run) =>
    machines.find((m) => m.plan_id === r.plan_id && (m.state ? m.state.run === r.id : r.simulated));
  return (
    <Section id="printing" title="Printing">
      {!open.length && (
        <p className="text-[13.5px] text-faded">
          No machine is running. A run starts in a plan&apos;s fold Log.
        </p>
      )}
      <ul>
        {open.map((r) => {
          const live = liveOf(r);
          return (
            <RunLine key={r.id} run={r}>
              <span>{r.figure_name}</span>
              {!live && r.simulated ? (
                <span className="text-persimmon">simulated, its machine is gone</span>
              ) : live ? (
                <Live on={live} />
              ) : (
                <span className={over(r) ? "text-persimmon" : "text-faded"}>
                  {over(r) ? "log the outcome" : `until ${hour(r.ends_at)}`}
                </span>
              )}
            </RunLine>
          );
        })}
      </ul>
    </Section>
  );
}

export function Shelf({ materials }: { materials: Machine[] }) {
  return (
    <Section id="stock" title="On the shelf">
      <ul>
        {materials.map((m) => (
          <li key={m.id} className={`${ROW} border-b border-thread py-1.5`}>
            <span>
              {m.name}
              <span className="ml-2 text-[12.5px] text-faded">{m.process}</span>
            </span>
            <span className={m.low ? "text-persimmon" : "text-faded"}>
              {m.left_g == null ? "not counted" : `${m.left_g.toFixed(0)} g left`}
            </span>
          </li>
        ))}
      </ul>
    </Section>
  );
}

export function Lately({ runs }: { runs: Run[] }) {
  return (
    <Section id="lately" title="Lately">
      <ul>
        {runs
          .filter((r) => r.result)
          .slice(0, MOST_LATELY)
          .map((r) => (
            <RunLine key={r.id} run={r}>
              <span>
                <span className="inline-block w-[86px] text-faded">{day(r.started_at)}</span>
                {r.figure_name}
              </span>
              <span className={r.result === "good" ? "text-moss" : "text-persimmon"}>
                {r.result}
              </span>
            </RunLine>
          ))}
      </ul>
      <Link
        to="/log"
        className="mt-1.5 inline-block text-[13.5px] text-indigo underline underline-offset-2"
      >
        The whole log
      </Link>
    </Section>
  );
}
