import { useEffect, useState } from "react";
import { problemOf } from "../api/client";
import { useAddress } from "../shell/address";
import { percent } from "../shell/format";
import { Crumbs } from "../shell/Header";
import { Trouble } from "../shell/Trouble";
import { Choice } from "../ui/Choice";
import { called, orderOf, sayTime, usePin, useWeek, type Week } from "./api";
import { Band } from "./Band";
import { Calendar } from "./Calendar";
import { HouseForm } from "./HouseForm";
import { Orders } from "./Orders";
import { Slot } from "./Slot";

const PARTS = [
  { value: "hands", text: "for your hands" },
  { value: "orders", text: "what is ordered" },
  { value: "slot", text: "what fits a slot" },
  { value: "house", text: "who is there" },
  { value: "calendar", text: "calendar" },
] as const;
type Part = (typeof PARTS)[number]["value"];

/** The week: what is ready when, what wants hands, and what would help. */
export function WeekPage() {
  const { week, error, job, weave } = useWeek();
  const { search, put } = useAddress();
  const part = PARTS.find((p) => p.value === search.get("part"))?.value ?? "hands";
  const [chosen, setChosen] = useState<string | null>(null);
  useEffect(() => {
    document.title = "The week · Tenugui";
  }, []);
  if (error) return <Trouble problem={problemOf(error)} />;
  if (!week) return <p className="p-10 text-faded">Looking at the week</p>;
  const weaving = !!week.job_id || weave.isPending;
  return (
    <main className="min-h-0 flex-1 overflow-y-auto px-8 py-4 max-[1100px]:px-5">
      <Crumbs trail={[{ text: "The week" }]} />
      <div className="flex flex-wrap items-start gap-3">
        <div className="min-w-0 flex-1">
          <h1 className="text-[27px] leading-tight">What is ready when?</h1>
          <p className="text-faded" aria-live="polite">
            {weaving ? `Weaving${job?.doing ? `: ${job.doing}` : ""}` : lineOf(week)}
          </p>
        </div>
        <button
          type="button"
          className="quiet px-3 py-1.5"
          onClick={() => put({ part: "orders", new: 1 })}
        >
          Order something
        </button>
        <button
          type="button"
          className="take"
          disabled={weaving || !!week.nothing}
          onClick={() => weave.mutate()}
        >
          Weave it anew
        </button>
      </div>
      {week.problem && (
        <p className="mt-2 text-persimmon">
          {week.problem.what} {week.problem.remedy}
        </p>
      )}
      <Would week={week} />
      <div className={week.stale || weaving ? "opacity-60" : ""}>
        <Band week={week} chosen={chosen} onChosen={setChosen} />
      </div>
      <Chosen week={week} job={chosen} />
      {week.week?.unplaced.map((u) => (
        <p key={u.job} className="text-persimmon">
          {called(u.job)} finds no place. {u.why}
        </p>
      ))}
      {week.week?.said.map((line) => (
        <p key={line} className="text-persimmon">
          {line.replace(/ \(\d+\)'/, "'")}
        </p>
      ))}
      <div className="mt-3 border-t border-thread pt-3">
        <Choice
          small
          label="Below the week"
          value={part}
          options={PARTS}
          onValue={(v: Part) => put({ part: v, new: null })}
        />
        <div className="mt-2">
          {part === "hands" && <Hands week={week} />}
          {part === "orders" && <Orders week={week} fresh={search.get("new") != null} />}
          {part === "slot" && <Slot />}
          {part === "house" && <HouseForm key={week.version} week={week} />}
          {part === "calendar" && <Calendar week={week} />}
        </div>
      </div>
    </main>
  );
}

/** What is woven, and how surely the dates are kept, in one line. */
export function lineOf(week: Week): string {
  if (week.nothing) return week.nothing;
  const woven = week.week;
  if (!woven) return "Not woven yet.";
  const runs = `${woven.runs.length} ${woven.runs.length === 1 ? "run" : "runs"}`;
  const dated = week.orders.filter((o) => o.due && o.sure != null);
  if (!dated.length) return `${runs}, nothing of it by a date.`;
  const least = dated.reduce((a, b) => ((b.sure ?? 1) < (a.sure ?? 1) ? b : a));
  const dates = `${dated.length} ${dated.length === 1 ? "date" : "dates"}`;
  const best = woven.optimal ? "no plan is better" : woven.gap == null ? "" : "the best found";
  const said = [dates, runs, best].filter(Boolean).join(", ");
  const kept = percent(least.sure ?? 0);
  return `${said}. In a thousand simulated weeks ${least.name} is ready in ${kept}.`;
}

/** The one move that would help the weakest date most. */
function Would({ week }: { week: Week }) {
  const pin = usePin();
  const of = week.better && orderOf(week, week.better.first);
  if (!week.better || !of || week.stale) return null;
  const [first, ...others] = week.better.dates;
  return (
    <p className="mt-2 border border-thread bg-paper px-4 py-2.5">
      Begin <b className="font-medium">{called(week.better.first)}</b> before all others:{" "}
      {called(first[0])} <span className="text-persimmon">{percent(first[1])}</span> to{" "}
      <span className="text-moss">{percent(first[2])}</span>
      {others.map(([job, before, after]) => (
        <span key={job}>
          , {called(job)} {percent(before)} to {percent(after)}
        </span>
      ))}
      .{" "}
      <button
        type="button"
        className="text-indigo underline"
        onClick={() => pin.mutate({ order: of.order.id, pin: { nth: of.nth, first: true } })}
      >
        Weave it so
      </button>
    </p>
  );
}

/** How long its start may wait, others going on as they are woven. */
function Waits({ week, job }: { week: Week; job: string }) {
  const dated = week.week?.dates.some((d) => d.job === job);
  const at = week.latest.find(([name]) => name === job)?.[1];
  if (!dated || week.stale) return null;
  return at ? (
    <>Started by {sayTime(at, week.now)} its date is still kept in nine of ten weeks. </>
  ) : (
    <>Its start has no time to spare. </>
  );
}

/** The run that was chosen: when, who does what, and how to pin it. */
function Chosen({ week, job }: { week: Week; job: string | null }) {
  const pin = usePin();
  const run = week.week?.runs.find((r) => r.job === job);
  const of = run && orderOf(week, run.job);
  if (!run || !of)
    return (
      <p className="text-[12.5px] text-faded">
        Pull a run along the band and it is woven anew; choose one to see what it wants. Hours are
        learned where a log tells them; risks and minutes of steps are priors.
      </p>
    );
  const pinned = of.order.pinned.includes(of.nth);
  return (
    <p className="text-[13px]" aria-live="polite">
      <b className="font-medium">{called(run.job)}</b> on {run.machine}:{" "}
      {sayTime(run.start, week.now)} to {sayTime(run.end, week.now)}, by{" "}
      {sayTime(run.end_95, week.now)} in 19 of 20 cases, all done {sayTime(run.done, week.now)}.{" "}
      <Waits week={week} job={run.job} />
      {pinned && "It does not start before it was pulled to. "}
      <button
        type="button"
        className="text-indigo underline"
        onClick={() =>
          pin.mutate({
            order: of.order.id,
            pin: pinned
              ? { nth: of.nth, first: false }
              : { nth: of.nth, not_before: run.start, first: false },
          })
        }
      >
        {pinned ? "Let it go" : "Not before then"}
      </button>{" "}
      {!pinned && (
        <button
          type="button"
          className="text-indigo underline"
          onClick={() => pin.mutate({ order: of.order.id, pin: { nth: of.nth, first: true } })}
        >
          Before all others
        </button>
      )}
    </p>
  );
}

/** What wants hands, the next first. */
function Hands({ week }: { week: Week }) {
  const now = week.now.slice(0, 16);
  const all = (week.week?.runs ?? [])
    .flatMap((run) => run.attend.map((one) => ({ ...one, run })))
    .filter((one) => one.at >= now)
    .sort((a, b) => (a.at < b.at ? -1 : 1));
  const until = new Date(Date.parse(`${now}:00Z`) + 36 * 3600_000).toISOString().slice(0, 16);
  const soon = all.filter((one) => one.at <= until);
  const shown = soon.length ? soon : all.slice(0, 4);
  if (!shown.length) return <p className="text-faded">Nothing wants hands.</p>;
  return (
    <ol className="grid grid-cols-[repeat(auto-fill,minmax(230px,1fr))] gap-x-8 gap-y-2">
      {shown.map((one) => (
        <li key={`${one.run.job} ${one.what} ${one.at}`}>
          <b className="font-medium">{sayTime(one.at, week.now)}</b> {one.what}:{" "}
          {called(one.run.job)}
          <span className="block text-[12.5px] text-faded">
            {one.run.machine}, {one.minutes} min{one.by && one.by !== "me" ? `, ${one.by}` : ""}
          </span>
        </li>
      ))}
    </ol>
  );
}
