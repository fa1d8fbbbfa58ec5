import { Link } from "react-router";
import type { PlanState } from "../api/client";
import { TITLES } from "./FoldBand";

/** A fold that waits for an earlier one says which, and leads there. */
export function NotYet({ plan, fold }: { plan: PlanState; fold: string }) {
  const before = plan.folds.slice(0, plan.folds.findIndex((f) => f.name === fold)).find((f) => f.state !== "settled");
  if (!before) return null;
  return (
    <div className="mt-2 border-l-4 border-thread bg-paper px-4 py-3">
      <p>{before.state === "stale" ? `${TITLES[before.name]} was decided for something that has changed since.` : `${TITLES[before.name]} comes first.`}</p>
      <Link className="take mt-3 inline-block" to={`/plan/${plan.id}/${before.name}`}>Go to {TITLES[before.name]}</Link>
    </div>
  );
}

export const isReady = (plan: PlanState, fold: string) => plan.folds.find((f) => f.name === fold)!.ready;

export function Heading({ title, line, said }: { title: string; line: React.ReactNode; said?: { good: boolean; text: string } }) {
  return (
    <div className="mb-2">
      <h1 className="text-[23px] leading-tight">{title}</h1>
      <p className="text-faded">{line}{said && <span className={said.good ? "text-moss" : "text-persimmon"}>{said.text}</span>}</p>
    </div>
  );
}
