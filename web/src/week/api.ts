import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { api, need, type Schemas } from "../api/client";
import { useJob } from "../api/queries";
import { useView } from "../shell/view";

export type Week = Schemas["WeekPage"];
export type Order = Schemas["OrderRow"];
export type Run = Schemas["WeekRunDoc"];
export type House = Schemas["House"];
export type Hours = Schemas["WeeklyHours"];
export type Fit = Schemas["FitRow"];

const KEY = ["week"];

/** The week; woven anew, once for each change, where something has changed since. */
export function useWeek() {
  const client = useQueryClient();
  const { fail } = useView();
  const held = useQuery({
    queryKey: KEY,
    queryFn: () => need(api.GET("/api/week")),
    refetchInterval: 60_000,
  });
  const weave = useMutation({
    mutationFn: () => need(api.POST("/api/week/weave")),
    onSuccess: (now) => client.setQueryData(KEY, now),
    onError: fail,
  });
  const week = held.data;
  const job = useJob(week?.job_id, () => void client.invalidateQueries({ queryKey: KEY }));
  const tried = useRef("");
  const essence = JSON.stringify([week?.orders, week?.house, week?.running]);
  const { mutate, isPending } = weave;
  useEffect(() => {
    if (!week?.stale || week.job_id || isPending || tried.current === essence) return;
    tried.current = essence;
    mutate();
  }, [week, essence, isPending, mutate]);
  return { week, error: held.error, job, weave };
}

/** A change of what is woven; afterwards the week is looked at again, and weaves itself anew. */
export function useWeekDeed<V>(deed: (value: V) => Promise<unknown>) {
  const client = useQueryClient();
  const { fail } = useView();
  return useMutation({
    mutationFn: deed,
    onSuccess: () => void client.invalidateQueries({ queryKey: KEY }),
    onError: (error) => {
      fail(error);
      void client.invalidateQueries({ queryKey: KEY });
    },
  });
}

export type PinAsk = Schemas["WeekPin"];

export const usePin = () =>
  useWeekDeed(({ order, pin }: { order: number; pin: PinAsk }) =>
    need(
      api.PUT("/api/week/orders/{number}/pin", { params: { path: { number: order } }, body: pin }),
    ),
  );

/** The order of a print in the week, and which of its prints it is. */
export function orderOf(week: Week, job: string): { order: Order; nth: number } | null {
  for (const order of week.orders) {
    const found = order.jobs.find((j) => j.name === job);
    if (found) return { order, nth: found.nth };
  }
  return null;
}

/** A job as people call it: without the number that tells orders apart. */
export const called = (job: string) => job.replace(/ \(\d+\)$/, "");

/** Minutes since 1970 of a time of the place. */
export const minuteOf = (at: string) => Date.parse(`${at.slice(0, 16)}:00Z`) / 60_000;

export const timeOf = (minute: number) => new Date(minute * 60_000).toISOString().slice(0, 16);

const DAYS = ["Sun", "Mon", "Tue", "Wed", "Thu", "Fri", "Sat"];

/** A time as people say it: today's by the clock alone. */
export function sayTime(at: string, now: string): string {
  const clock = at.slice(11, 16);
  if (at.slice(0, 10) === now.slice(0, 10)) return clock;
  const day = new Date(`${at.slice(0, 10)}T00:00:00Z`);
  return `${DAYS[day.getUTCDay()]} ${day.getUTCDate()}, ${clock}`;
}
