import {
  api,
  need,
  type HollowBoard,
  type LayersBoard,
  type Others,
  type PlanState,
  type PoseBoard,
  type PrintFile,
  type ProofBoard,
  type Slices,
  type SupportsBoard,
  type Trial,
  type WallsBoard,
} from "./client";
import { useComputation } from "./queries";

/** What a fold's computation rests on, as far as the page knows: a change of it asks anew. */
const standing = (plan: PlanState, fold: string) => [
  "compute",
  plan.id,
  fold,
  plan.folds.find((f) => f.name === fold)?.key ?? null,
];

const path = (plan: PlanState) => ({ params: { path: { number: plan.id } } });

/** `wishes` (JSON) are a pose's priorities and pinned directions. */
export function usePoses(plan: PlanState, enabled: boolean, wishes?: string) {
  const asked = { params: { path: { number: plan.id }, query: { wishes } } };
  return useComputation<PoseBoard>(
    [...standing(plan, "pose"), wishes],
    {
      look: () => need(api.GET("/api/plans/{number}/compute/pose", asked)),
      start: () => need(api.POST("/api/plans/{number}/compute/pose", asked)),
    },
    enabled,
  );
}

/** `wishes` (JSON) hold a wall, struts and holes of one's own. */
export function useHollow(plan: PlanState, enabled: boolean, wishes?: string) {
  const asked = { params: { path: { number: plan.id }, query: { wishes } } };
  return useComputation<HollowBoard>(
    [...standing(plan, "hollow"), wishes],
    {
      look: () => need(api.GET("/api/plans/{number}/compute/hollow", asked)),
      start: () => need(api.POST("/api/plans/{number}/compute/hollow", asked)),
    },
    enabled,
  );
}

/** `wishes` (JSON) hold perimeters, roofs and infill of one's own. */
export function useWalls(plan: PlanState, enabled: boolean, wishes?: string) {
  const asked = { params: { path: { number: plan.id }, query: { wishes } } };
  return useComputation<WallsBoard>(
    [...standing(plan, "walls"), wishes],
    {
      look: () => need(api.GET("/api/plans/{number}/compute/walls", asked)),
      start: () => need(api.POST("/api/plans/{number}/compute/walls", asked)),
    },
    enabled,
  );
}

/** `wishes` (JSON) hold a support set with changes by hand. */
export function useSupports(plan: PlanState, enabled: boolean, wishes?: string) {
  const asked = { params: { path: { number: plan.id }, query: { wishes } } };
  return useComputation<SupportsBoard>(
    [...standing(plan, "supports"), wishes],
    {
      look: () => need(api.GET("/api/plans/{number}/compute/supports", asked)),
      start: () => need(api.POST("/api/plans/{number}/compute/supports", asked)),
    },
    enabled,
  );
}

/** Outlines of every layer of the plan as it stands. */
export const useSlices = (plan: PlanState, enabled: boolean) =>
  useComputation<Slices>(
    [...standing(plan, "proof"), "slices"],
    {
      look: () => need(api.GET("/api/plans/{number}/slices", path(plan))),
      start: () => need(api.POST("/api/plans/{number}/slices", path(plan))),
    },
    enabled,
  );

/** A thousand trial prints of the plan as it stands. */
export const useTrial = (plan: PlanState, enabled: boolean) =>
  useComputation<Trial>(
    [...standing(plan, "proof"), "trial"],
    {
      look: () => need(api.GET("/api/plans/{number}/trial", path(plan))),
      start: () => need(api.POST("/api/plans/{number}/trial", path(plan))),
    },
    enabled,
  );

/** The machine's own file of the proved plan; asked for only when somebody wants it. */
export const usePrintFile = (plan: PlanState, enabled: boolean) =>
  useComputation<PrintFile>(
    [...standing(plan, "proof"), "printfile"],
    {
      look: () => need(api.GET("/api/plans/{number}/printfile", path(plan))),
      start: () => need(api.POST("/api/plans/{number}/printfile", path(plan))),
    },
    enabled,
  );

/** The figure by other nozzles and machines beside a height; asked for only when somebody wants it. */
export function useOthers(plan: PlanState, enabled: boolean, height: number) {
  const asked = { params: { path: { number: plan.id }, query: { height } } };
  return useComputation<Others>(
    [...standing(plan, "layers"), "others", height],
    {
      look: () => need(api.GET("/api/plans/{number}/layers/others", asked)),
      start: () => need(api.POST("/api/plans/{number}/layers/others", asked)),
    },
    enabled,
  );
}

export const useLayers = (plan: PlanState, enabled: boolean) =>
  useComputation<LayersBoard>(
    standing(plan, "layers"),
    {
      look: () => need(api.GET("/api/plans/{number}/compute/layers", path(plan))),
      start: () => need(api.POST("/api/plans/{number}/compute/layers", path(plan))),
    },
    enabled,
  );

export const useProof = (plan: PlanState, enabled: boolean) =>
  useComputation<ProofBoard>(
    standing(plan, "proof"),
    {
      look: () => need(api.GET("/api/plans/{number}/compute/proof", path(plan))),
      start: () => need(api.POST("/api/plans/{number}/compute/proof", path(plan))),
    },
    enabled,
  );
