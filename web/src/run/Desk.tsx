import { Link } from "react-router";
import { problemOf } from "../api/client";
import { useDesk, type Desk as DeskDoc, type Pin } from "../api/memory";

/** What somebody should look at first: whether anything held it. */
export function heldLine({ held, proved }: Pick<DeskDoc, "held" | "proved">): string {
  if (!proved) return "This run kept no proof, so the causes stand by how usual they are (priors).";
  if (held == null) return "Priors, weighed by what this run's own proof told of the layers there.";
  return held
    ? "Something held it: the run's own layers show no start in mid air there."
    : "Was it held at all? The run's own layers show a start in mid air there that nothing holds.";
}

const share = (chance: number) => Math.round(chance * 100);

/** Where to look for what was seen: causes by chance, and the cheapest test that tells. */
export function Desk({ run, pin }: { run: number; pin: Pin }) {
  const desk = useDesk(run, pin.cue, pin.layer);
  if (desk.error)
    return (
      <p role="alert" className="text-persimmon">
        {problemOf(desk.error).message}
      </p>
    );
  if (!desk.data) return null;
  const { words, suspects, next, learnt_from } = desk.data;
  const first = suspects[next];
  return (
    <section aria-label="What it may come from" className="mb-4 border-l-4 border-thread pl-3">
      <h2 className="text-[18px]">Where does it come from: {words}?</h2>
      <p className="text-[13.5px] text-faded">
        {heldLine(desk.data)}{" "}
        {learnt_from
          ? `This machine's log has its say, from ${learnt_from} ${learnt_from === 1 ? "run" : "runs"}.`
          : "This machine's log says nothing of causes yet."}
      </p>
      <ul className="mt-1">
        {suspects.map((s) => (
          <li key={s.code} className="flex items-baseline gap-3 border-b border-thread py-1">
            <span className="w-11 shrink-0 text-right">{share(s.chance)} %</span>
            <svg width="64" height="9" aria-hidden className="shrink-0">
              <rect width={64 * s.chance} height="9" fill="url(#p-chance)" />
            </svg>
            <span className="min-w-0 flex-1">
              {s.words}
              <span className="ml-2 text-[13px] text-faded">
                {s.told >= 0.005 && `the proof told ${share(s.told)} % there`}
                {s.times >= 1.2 && `, ${s.times.toFixed(1)} times as often as told here`}
              </span>
            </span>
          </li>
        ))}
      </ul>
      {first && (
        <p className="mt-1.5">
          <span className="font-medium">Next: {first.test}</span>
          {first.minutes >= 1 && (
            <span className="text-faded">, {first.minutes} minutes</span>
          )}.{" "}
          {first.series && (
            <Link
              className="text-indigo underline"
              to={`/series?new=${encodeURIComponent(first.series)}`}
            >
              Make it a series
            </Link>
          )}
        </p>
      )}
    </section>
  );
}
