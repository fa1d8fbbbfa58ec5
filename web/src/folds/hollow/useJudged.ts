import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { api, need, type Hole, type HollowRow, type Place, type PlanState } from "../../api/client";

/** What the holes of a row do as they are set, in the positions asked for or the best one. */
export function useJudged(
  plan: PlanState,
  row: HollowRow | undefined,
  holes: Hole[],
  turns: Place[],
) {
  const wall = row?.hollow ? row.wall_mm : null;
  const body = { wall_mm: wall ?? 1, lattice_mm: row?.lattice_mm ?? null, holes, turns };
  const key = plan.folds.find((f) => f.name === "hollow")?.key ?? null;
  return useQuery({
    queryKey: ["judged", plan.id, key, body],
    queryFn: () =>
      need(
        api.POST("/api/plans/{number}/hollow/judge", {
          params: { path: { number: plan.id } },
          body,
        }),
      ),
    enabled: wall != null && !!row?.hollow?.cavities.length,
    staleTime: Infinity,
    placeholderData: keepPreviousData,
  });
}
