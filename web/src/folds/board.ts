import { useEffect, useRef } from "react";
import { useHotkeys } from "react-hotkeys-hook";
import { api, need, type PlanState } from "../api/client";
import { usePlanChange } from "../api/queries";
import { useView } from "../shell/view";
import type { Stage } from "../stage/scene";
import { afterOf, foldOf, type Asked, type FoldProps } from "./types";

/** Take an alternative of the board that is seen, say so with a way back, and go on to where the plan says. */
export function useTake(
  plan: PlanState,
  fold: string,
  key: string | null,
  settled: FoldProps["settled"],
  wishes?: Asked,
) {
  const { fail, say } = useView();
  const change = usePlanChange(plan.id, (option: number) =>
    need(
      api.POST("/api/plans/{number}/decide/{fold}", {
        params: { path: { number: plan.id, fold } },
        body: { head: plan.head, key: key ?? "", option, reason: "", wishes },
      }),
    ),
  );
  return {
    busy: change.isPending,
    take: (option: number) =>
      change.mutate(option, {
        onSuccess: (state) => {
          say({ text: `${foldOf(plan, fold).title} settled. Z takes it back.` });
          settled(afterOf(state, fold));
        },
        onError: fail,
      }),
  };
}

/** Show the stage whenever what it depends on changes. */
export function useStage(show: FoldProps["show"], stage: Stage, on: readonly unknown[]) {
  // the stage is made anew at every drawing; `on` says what of it can change
  // eslint-disable-next-line react-hooks/exhaustive-deps
  useEffect(() => show(stage), on);
}

/** A busy page may take so long until the row that was asked for is shown. */
const FOLLOWS_MS = 3000;

/** J and K walk the board, Enter takes the row shown. */
export function useBoardKeys(
  count: number,
  shown: number,
  onOption: (o: number) => void,
  take: () => void,
) {
  // The address follows a moment later: two quick steps are two.
  const asked = useRef({ row: shown, at: 0 });
  const walk = (by: number) => {
    const now = performance.now();
    const under = shown !== asked.current.row && now - asked.current.at < FOLLOWS_MS;
    const from = under ? asked.current.row : shown;
    asked.current = { row: Math.min(count - 1, Math.max(0, from + by)), at: now };
    onOption(asked.current.row);
  };
  useHotkeys("j", () => walk(1), [count, onOption]);
  useHotkeys("k", () => walk(-1), [count, onOption]);
  useHotkeys("enter", take, { enabled: count > 0 }, [count, shown, take]);
}
