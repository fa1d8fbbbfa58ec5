import type { FoldState, Intake, PlanState, Schemas } from "../api/client";
import type { Stage } from "../stage/scene";

type AnyChoice = Extract<NonNullable<FoldState["choice"]>, { fold: string }>;
type AnyAsk = Extract<NonNullable<FoldState["asked"]>, { fold: string }>;

/** A fold with the choice that it holds, and what is asked of its board. */
export type FoldOf<N extends string> = Omit<FoldState, "choice" | "asked"> & {
  choice: Extract<AnyChoice, { fold: N }> | null;
  asked: Extract<AnyAsk, { fold: N }> | null;
};

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

/** A fold of a plan by its name, where the plan is asked it. */
export function askedFold<N extends string>(plan: PlanState, name: N): FoldOf<N> | null {
  const found = plan.folds.find((f) => f.name === name);
  return found ? (found as FoldOf<N>) : null;
}

/** A fold of a plan by its name. */
export function foldOf<N extends string>(plan: PlanState, name: N): FoldOf<N> {
  const found = askedFold(plan, name);
  if (!found) throw new Error(`there is no fold ${name}`);
  return found;
}

/** Which alternative of a board is taken, where the fold is settled. */
export function takenOf(fold: {
  state: string;
  choice: { option?: number } | null;
}): number | null {
  return fold.state === "settled" ? (fold.choice?.option ?? null) : null;
}

/** Where the work goes on after a fold. */
export const afterOf = (plan: PlanState, name: string): string => foldOf(plan, name).next ?? name;

export type Asked = NonNullable<Schemas["OptionDecision"]["wishes"]>;
