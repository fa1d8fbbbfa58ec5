import { useMutation, useQuery } from "@tanstack/react-query";
import { api, need, type Schemas } from "../api/client";
import { useView } from "../shell/view";

export type Decision = Schemas["DecisionRow"];
export type Compared = Schemas["Compared"];
export type Side = Schemas["SideShown"];

export const useLine = (plan: number) =>
  useQuery({
    queryKey: ["line", plan],
    queryFn: () =>
      need(api.GET("/api/plans/{number}/line", { params: { path: { number: plan } } })),
    enabled: plan > 0,
  });

export type Settable = Schemas["SettableRow"];
export type Own = Schemas["OwnAsked"];

/** Another plan that begins after a decision, with none where null; `own`: with settings of its own. */
export function useBranch(plan: number, then: (id: number) => void) {
  const { fail } = useView();
  return useMutation({
    mutationFn: ({ decision, own }: { decision: number | null; own?: Own }) =>
      need(
        api.POST("/api/plans/{number}/branch", {
          params: { path: { number: plan } },
          body: { decision, own: own ?? null },
        }),
      ),
    onSuccess: then,
    onError: fail,
  });
}

/** A plan, or a plan after one of its decisions. */
export interface Point {
  plan: number;
  at: number | null;
}

export const useCompared = (one: Point, other: Point) =>
  useQuery({
    queryKey: ["compare", one, other],
    queryFn: () =>
      need(
        api.GET("/api/compare", {
          params: {
            query: {
              a: one.plan,
              b: other.plan,
              ...(one.at ? { at_a: one.at } : {}),
              ...(other.at ? { at_b: other.at } : {}),
            },
          },
        }),
      ),
    enabled: one.plan > 0 && other.plan > 0,
  });
