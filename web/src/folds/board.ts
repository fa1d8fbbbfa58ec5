import { useEffect, useRef } from "react";
import { useHotkeys } from "react-hotkeys-hook";
import { api, need, type PlanState, type Problem, type Schemas } from "../api/client";
import { usePlanChange } from "../api/queries";
import { useView } from "../shell/view";
import type { FoldProps, Stage } from "./FigurePage";

/** Take an alternative, say so with a way back, and go on to the next fold. */
export function useTake(plan: PlanState, fold: string, next: string, settled: FoldProps["settled"], wishes?: Schemas["Wishes"]) {
  const { fail, say } = useView();
  const change = usePlanChange(plan.id, (option: number) => need(api.POST("/api/plans/{number}/decide/{fold}", { params: { path: { number: plan.id, fold } }, body: { option, reason: "", wishes } })));
  return {
    busy: change.isPending,
    take: (option: number) =>
      change.mutate(option, {
        onSuccess: () => { say({ text: `${fold[0].toUpperCase()}${fold.slice(1)} settled. Z takes it back.` }); settled(next); },
        onError: (e) => fail(e as unknown as Problem),
      }),
  };
}

/** Show the stage whenever what it depends on changes. */
export function useStage(show: FoldProps["show"], stage: Stage, on: unknown[]) {
  // eslint-disable-next-line react-hooks/exhaustive-deps
  useEffect(() => show(stage), on);
}

/** J and K walk the board, Enter takes the row shown. */
export function useBoardKeys(count: number, shown: number, onOption: (o: number) => void, take: () => void) {
  // The address follows a moment later: two quick steps are two.
  const at = useRef(shown);
  useEffect(() => { at.current = shown; }, [shown]);
  const step = (by: number) => onOption((at.current = Math.min(count - 1, Math.max(0, at.current + by))));
  useHotkeys("j", () => step(1), [count, onOption]);
  useHotkeys("k", () => step(-1), [count, onOption]);
  useHotkeys("enter", take, { enabled: count > 0 }, [count, shown, take]);
}

export const rowProps = (index: number, shown: number, onOption: (o: number) => void) => ({
  "aria-selected": index === shown, tabIndex: 0, onClick: () => onOption(index), onFocus: () => index !== shown && onOption(index),
});
