import { keepPreviousData, useQuery } from "@tanstack/react-query";
import {
  api,
  need,
  type Place,
  type PlanState,
  type Schemas,
  type SupportsRow,
} from "../../api/client";

export type WhatIf = Schemas["WhatIfDoc"];

/** What would be weaker without some tips of a row and with others, before anything is placed. */
export function useWhatIf(
  plan: PlanState,
  row: SupportsRow | undefined,
  gone: number[],
  put: Place[],
) {
  const body = { ...setOf(row), gone, put };
  const key = plan.folds.find((f) => f.name === "supports")?.key ?? null;
  return useQuery({
    queryKey: ["what-if", plan.id, key, body],
    queryFn: () =>
      need(
        api.POST("/api/plans/{number}/supports/what-if", {
          params: { path: { number: plan.id } },
          body,
        }),
      ),
    enabled: !!row && gone.length + put.length > 0,
    staleTime: Infinity,
    placeholderData: keepPreviousData,
  });
}

/** Which tips of a row are needed; asked only once somebody walks them. */
export function useNeeded(plan: PlanState, row: SupportsRow | undefined, asked: boolean) {
  const body = setOf(row);
  const key = plan.folds.find((f) => f.name === "supports")?.key ?? null;
  return useQuery({
    queryKey: ["needed", plan.id, key, body],
    queryFn: () =>
      need(
        api.POST("/api/plans/{number}/supports/needed", {
          params: { path: { number: plan.id } },
          body,
        }),
      ),
    enabled: !!row && asked,
    staleTime: Infinity,
  }).data?.needed;
}

/** In which order tips of a row may go; asked only once somebody walks so. */
export function useBackOff(plan: PlanState, row: SupportsRow | undefined, asked: boolean) {
  const body = setOf(row);
  const key = plan.folds.find((f) => f.name === "supports")?.key ?? null;
  return useQuery({
    queryKey: ["back-off", plan.id, key, body],
    queryFn: () =>
      need(
        api.POST("/api/plans/{number}/supports/back-off", {
          params: { path: { number: plan.id } },
          body,
        }),
      ),
    enabled: !!row && asked,
    staleTime: Infinity,
  }).data;
}

/** A row as it is asked for. */
export const setOf = (row: SupportsRow | undefined) => ({
  risk: row?.risk ?? 0.05,
  style: (row?.style ?? "pillars") as "pillars",
  edits: row?.edits ?? [],
});

const mm = (v: number) => `${v.toFixed(1)} mm up`;
const part = (share: number) =>
  share < 0.01 ? "a small part" : `${(share * 100).toFixed(0)} % of the figure`;

/** What a change would weaken, the weakest first, in a sentence. */
export function saidOf(found: WhatIf): string {
  const vain = found.vain
    ? ` ${found.vain === 1 ? "One place has" : `${found.vain} places have`} nothing above to push against.`
    : "";
  const [first] = found.worse;
  if (!first) return `Nothing falls below what is asked.${vain}`;
  const starts = found.worse.filter((c) => c.after === 0);
  const more = found.worse.length > 1 ? ` ${found.worse.length} bodies in all.` : "";
  const times = `${first.after.toFixed(1)} times what pulls, not ${first.before.toFixed(1)}`;
  const told =
    starts.length > 0
      ? `${part(starts[0].share)} would start in mid air, ${mm(starts[0].place[2])}.`
      : `${part(first.share)}, ${mm(first.place[2])}, would be held ${times}; ${found.wanted.toFixed(1)} is asked.`;
  return told.charAt(0).toUpperCase() + told.slice(1) + more + vain;
}
