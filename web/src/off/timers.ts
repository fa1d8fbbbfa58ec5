import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { api, need, type Schemas } from "../api/client";

export type Timer = Schemas["Timer"];
const [LOOK_MS, TICK_MS, IDLE_MS] = [10_000, 1000, 30_000];

/** All timers of the bench as they are now; asked more often while one runs. */
export function useTimers(): Timer[] {
  const held = useQuery({
    queryKey: ["timers"],
    queryFn: async () => {
      const timers = await need(api.GET("/api/timers"));
      return { timers, at: Date.now() };
    },
    refetchInterval: (q) => (q.state.data?.timers.length ? LOOK_MS : IDLE_MS),
  });
  const some = !!held.data?.timers.length;
  const [now, setNow] = useState(() => Date.now());
  useEffect(() => {
    if (!some) return;
    const tick = setInterval(() => setNow(Date.now()), TICK_MS);
    return () => clearInterval(tick);
  }, [some]);
  // The server's clock counts; this one only says how long ago it was asked.
  const passed = held.data ? Math.max(0, (now - held.data.at) / 1000) : 0;
  return held.data?.timers.map((t) => ({ ...t, left_s: t.left_s - passed })) ?? [];
}

const two = (n: number) => String(n).padStart(2, "0");

/** What is left of a timer: minutes and seconds, or since when it rings. */
export function leftOf({ left_s }: Pick<Timer, "left_s">): string {
  const seconds = Math.ceil(Math.abs(left_s));
  const said =
    seconds >= 3600
      ? `${Math.floor(seconds / 3600)}:${two(Math.floor(seconds / 60) % 60)}:${two(seconds % 60)}`
      : `${Math.floor(seconds / 60)}:${two(seconds % 60)}`;
  return left_s > 0 ? said : `rang ${said} ago`;
}

/** Minutes since a timer was started, by the server's clock. */
export const minutesOf = ({ started_at, ends_at, left_s }: Timer): number =>
  ((Date.parse(ends_at) - Date.parse(started_at)) / 1000 - left_s) / 60;
