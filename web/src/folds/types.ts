import type { FoldState, Intake, PlanState } from "../api/client";
import type { Stage } from "../stage/scene";

/** What a fold is given, and how it speaks to the page around it. */
export interface FoldProps {
  plan: PlanState;
  intake: Intake | null;
  show: (stage: Stage) => void;
  layer: number | null;
  onLayer: (layer: number | null) => void;
  option: number | null;
  onOption: (option: number) => void;
  settled: (next: string) => void;
}

/** A fold of a plan by its name. */
export function foldOf(plan: PlanState, name: string): FoldState {
  const found = plan.folds.find((f) => f.name === name);
  if (!found) throw new Error(`there is no fold ${name}`);
  return found;
}

/** Which alternative of a board is taken, where the fold is settled. */
export function takenOf(fold: FoldState): number | null {
  return fold.state === "settled" ? (fold.choice?.option ?? null) : null;
}
