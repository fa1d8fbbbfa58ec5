import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { api, need, type Schemas } from "../api/client";
import { day, hour, percent } from "../shell/format";

type Row = Schemas["TodayRow"];
const LOOK_MS = 60_000;

/** The bench as the day: what wants hands next, what dries until when, what is due. */
export function Today() {
  const held = useQuery({
    queryKey: ["today"],
    queryFn: () => need(api.GET("/api/today")),
    refetchInterval: LOOK_MS,
  });
  if (!held.data?.rows.length) return null;
  const { rows, stale, now } = held.data;
  return (
    <section aria-labelledby="today">
      <h2 id="today" className="mb-1 text-[19px]">
        Today
      </h2>
      <ul>
        {rows.map((r, k) => (
          <li key={k} className="border-b border-thread py-1.5">
            <Link
              to={r.kind === "dries" && r.plan ? `/off/${r.plan}` : "/week"}
              className="flex items-baseline gap-3"
            >
              <span className="w-[74px] shrink-0 text-faded">{whenOf(r.at, now)}</span>
              <span className="min-w-0 flex-1">
                {wordsOf(r)}
                {r.kind === "due" && (
                  <span className="block text-[12.5px] text-faded">
                    {r.what}
                    {r.sure != null && `, in time in ${percent(r.sure)}`}
                  </span>
                )}
              </span>
            </Link>
          </li>
        ))}
      </ul>
      {stale && (
        <p className="pt-1 text-[12.5px] text-persimmon">
          <Link to="/week">Something has changed since the week was woven.</Link>
        </p>
      )}
    </section>
  );
}

/** An hour of today, else the day. */
export const whenOf = (at: string, now: string) =>
  at.slice(0, 10) === now.slice(0, 10) ? hour(at) : day(at);

/** A row in words. */
export const wordsOf = (r: Row): string =>
  r.kind === "due"
    ? `${r.of} is due`
    : r.kind === "dries"
      ? `${r.of}: ${r.what} ends`
      : `${r.of}: ${r.what}${r.by ? `, ${r.by}` : ""}`;
