import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { api, need, type LayersBoard, type Place, type PlanState } from "../../api/client";
import { useAddress } from "../../shell/address";

/** The place that is looked at closely, in the figure's frame at its size: kept in the address. */
export function useClose(plan: PlanState, board: LayersBoard | null | undefined) {
  const { search, put } = useAddress();
  const given = search.get("at")?.split(",").map(Number);
  const asked: Place | null =
    given?.length === 3 && given.every(Number.isFinite) ? [given[0], given[1], given[2]] : null;
  const at = asked ?? board?.places.at(0)?.at ?? null;
  const heights = board?.choices.filter((c) => !c.bands).map((c) => c.height.layer_height_mm) ?? [];
  const key = plan.folds.find((f) => f.name === "layers")?.key ?? null;
  const profile = useQuery({
    queryKey: ["profile", plan.id, key, at, heights],
    queryFn: () =>
      need(
        api.POST("/api/plans/{number}/layers/profile", {
          params: { path: { number: plan.id } },
          body: { at: at ?? [0, 0, 0], heights },
        }),
      ),
    enabled: !!at && heights.length > 0,
    staleTime: Infinity,
    placeholderData: keepPreviousData,
  });
  const look = (place: Place) => put({ at: place.map((v) => v.toFixed(2)).join(",") });
  return { at, asked, profile: profile.data, problem: profile.error, look };
}
