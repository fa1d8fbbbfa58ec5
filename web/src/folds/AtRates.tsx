import { Link } from "react-router";
import type { PlanState } from "../api/client";
import { foldOf } from "./types";

const NAMES: Record<string, string> = {
  evening: "an evening's hobby",
  order: "work on order",
  army: "an army",
};

/** At whose rates the bars of a board are drawn, and where they are changed. */
export function AtRates({ plan }: { plan: PlanState }) {
  const rates = foldOf(plan, "pose").asked?.wish?.rates ?? "evening";
  const name = typeof rates === "string" ? NAMES[rates] : "your own";
  return (
    <>
      Coins at the rates of{" "}
      <Link className="text-indigo underline" to={`/plan/${plan.id}/pose?view=map`}>
        {name}
      </Link>
      .
    </>
  );
}
