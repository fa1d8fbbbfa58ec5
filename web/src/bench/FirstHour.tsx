import { useState } from "react";
import { Link } from "react-router";
import type { FigureRow } from "../api/client";
import { useDrills } from "../drills/api";
import { stepsOf } from "./hour";

const KEPT = "tenugui-first-hour";
const ENOUGH_RUNS = 3;

interface Props {
  rows: FigureRow[];
  runs: { result?: string | null }[];
  /** Whether somebody asked to see it, however much was done. */
  wanted: boolean;
}

/** A way through the first figure, from its file to its print: never in the way, and away with one click. */
export function FirstHour({ rows, runs, wanted }: Props) {
  const [away, setAway] = useState(() => localStorage.getItem(KEPT) === "away");
  const may = wanted || (!away && runs.length < ENOUGH_RUNS);
  const drills = useDrills(may);
  const drilled = drills.data?.skills.some((s) => s.answers > 0) ?? false;
  const steps = stepsOf(rows, runs, drilled);
  const next = steps.find((s) => !s.done);
  const [closed, setClosed] = useState(false);
  if (closed || !may || (!wanted && !next)) return null;
  return (
    <section aria-label="The first hour" className="mb-5 border border-thread bg-paper px-4 py-3">
      <div className="flex items-baseline gap-4">
        <h2 className="text-[17px]">The first hour</h2>
        <span className="text-[13px] text-faded">
          {steps.filter((s) => s.done).length} of {steps.length} done
        </span>
        <Link className="text-[13px] text-indigo underline" to="/craft">
          the craft in ten pages
        </Link>
        <button
          type="button"
          className="ml-auto text-[12.5px] text-faded underline"
          onClick={() => {
            localStorage.setItem(KEPT, "away");
            setAway(true);
            setClosed(true);
          }}
        >
          put it away
        </button>
      </div>
      <ol className="mt-1">
        {steps.map((s) => (
          <li key={s.text} className="flex gap-2.5 py-0.5 text-[13.5px]">
            <span aria-label={s.done ? "done" : "to do"} className="w-4 shrink-0 text-moss">
              {s.done ? "✓" : ""}
            </span>
            {s === next ? (
              <span>
                <Link className="font-medium text-indigo underline" to={s.to}>
                  {s.text}
                </Link>
                <span className="block text-faded">{s.why}</span>
              </span>
            ) : (
              <span className={s.done ? "text-faded" : ""}>{s.text}</span>
            )}
          </li>
        ))}
      </ol>
    </section>
  );
}
