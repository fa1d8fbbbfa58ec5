import { useQuery } from "@tanstack/react-query";
import { api, need, type Intake, type Mend, type Proposals, type Way, type Weak } from "./client";
import { useComputation } from "./queries";

export function useIntake(figure: number) {
  const asked = { params: { path: { number: figure } } };
  return useComputation<Intake>(["intake", figure], {
    look: () => need(api.GET("/api/figures/{number}/intake", asked)),
    start: () => need(api.POST("/api/figures/{number}/intake", asked)),
  });
}

/** Another copy than the one that is worked on by itself. */
export function useMend(figure: number, way: Way) {
  const made = way === "ready" ? "original" : way;
  const asked = { params: { path: { number: figure, way: made } } };
  return useComputation<Mend>(
    ["mend", figure, way],
    {
      look: () => need(api.GET("/api/figures/{number}/mend/{way}", asked)),
      start: () => need(api.POST("/api/figures/{number}/mend/{way}", asked)),
    },
    way !== "ready",
  );
}

export function useWeak(figure: number, printer: number, factor: number, way: Way) {
  const asked = { params: { path: { number: figure }, query: { printer, factor, way } } };
  return useComputation<Weak>(["weak", figure, printer, factor, way], {
    look: () => need(api.GET("/api/figures/{number}/weak", asked)),
    start: () => need(api.POST("/api/figures/{number}/weak", asked)),
  });
}

export function useProposals(
  figure: number,
  way: Way,
  marks: string | undefined,
  enabled: boolean,
) {
  const asked = { params: { path: { number: figure }, query: { way, marks } } };
  return useComputation<Proposals>(
    ["proposals", figure, way, marks],
    {
      look: () => need(api.GET("/api/figures/{number}/proposals", asked)),
      start: () => need(api.POST("/api/figures/{number}/proposals", asked)),
    },
    enabled,
  );
}

/** For every printer the largest factor at which the figure fits it in some pose. */
export function useFits(figure: number) {
  const asked = { params: { path: { number: figure } } };
  return useQuery({
    queryKey: ["fits", figure],
    queryFn: () => need(api.GET("/api/figures/{number}/fits", asked)),
    staleTime: Infinity,
  }).data;
}
