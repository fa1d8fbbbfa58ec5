import { api, need } from "../api/client";
import { useWeekDeed, type Week } from "./api";

/** The week as a calendar: once, or at a private address that can be taken away. */
export function Calendar({ week }: { week: Week }) {
  const open = useWeekDeed(() => need(api.POST("/api/week/feed")));
  const close = useWeekDeed(() => need(api.DELETE("/api/week/feed")));
  const address = week.feed ? `${window.location.origin}${week.feed}` : null;
  return (
    <section aria-label="Calendar" className="max-w-[90ch] space-y-2">
      <p>
        {week.week ? (
          <a className="text-indigo underline" href="/api/week/calendar.ics">
            This week as a calendar file
          </a>
        ) : (
          "When a week is woven it can be taken as a calendar file"
        )}
        : whatever wants hands, with a reminder ten minutes before, and each run from its start to
        its end.
      </p>
      {address ? (
        <p>
          A calendar can follow it at <code className="bg-paper px-1 break-all">{address}</code>:
          whoever has this address reads it.{" "}
          <button
            type="button"
            className="text-indigo underline"
            onClick={() => open.mutate(undefined)}
          >
            Another address
          </button>{" "}
          <button
            type="button"
            className="text-indigo underline"
            onClick={() => close.mutate(undefined)}
          >
            Close it
          </button>
        </p>
      ) : (
        <p>
          <button type="button" className="quiet px-2.5" onClick={() => open.mutate(undefined)}>
            Open a private address
          </button>{" "}
          that a calendar on this computer can follow.
        </p>
      )}
    </section>
  );
}
