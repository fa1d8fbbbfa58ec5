import { Link } from "react-router";
import { api, need } from "../api/client";
import { useDeed } from "../api/memory";
import { leftOf, useTimers } from "./timers";

/** Timers on every open page: what runs, and what has rung until somebody has seen it. */
export function Ringing() {
  const timers = useTimers();
  const away = useDeed("timers", (number: number) =>
    need(api.DELETE("/api/timers/{number}", { params: { path: { number } } })),
  );
  if (!timers.length) return null;
  return (
    <ul
      aria-label="Timers"
      className="flex flex-wrap gap-x-6 gap-y-1 border-b border-thread bg-paper px-8 py-1 max-[1100px]:px-5"
    >
      {timers.map((t) => (
        <li
          key={t.id}
          role={t.left_s > 0 ? undefined : "alert"}
          className={`flex items-baseline gap-3 ${t.left_s > 0 ? "text-faded" : "font-medium text-persimmon"}`}
        >
          <Link to={`/off/${t.plan_id}`}>
            {t.figure_name}: {t.step}
          </Link>
          <span>{leftOf(t)}</span>
          <button
            type="button"
            className="underline"
            aria-label={`Put the timer of ${t.step} away`}
            onClick={() => away.mutate(t.id)}
          >
            {t.left_s > 0 ? "stop" : "seen"}
          </button>
        </li>
      ))}
    </ul>
  );
}
