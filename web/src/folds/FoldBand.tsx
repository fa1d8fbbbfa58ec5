import { NavLink } from "react-router";
import type { FoldState, PlanState } from "../api/client";
import { Tip } from "../ui/Tip";

function said(fold: FoldState): string {
  if (fold.state === "stale") return "stale: decide again";
  if (fold.said) return fold.said;
  if (fold.name === "log") return "what became of it";
  return fold.ready ? "open" : "waits";
}

/** One long cloth folded into panels in the order of the work. */
export function FoldBand({ plan, current }: { plan: PlanState; current: string }) {
  return (
    <nav aria-label="Folds" className="flex px-8 pt-2.5 max-[1100px]:px-5">
      {plan.folds.map((fold, i) => (
        <Tip key={fold.name} text={fold.reason}>
          <NavLink
            to={`/plan/${plan.id}/${fold.name}`}
            aria-current={fold.name === current ? "step" : undefined}
            className={panel(fold, fold.name === current, i > 0)}
          >
            <Panel fold={fold} here={fold.name === current} />
          </NavLink>
        </Tip>
      ))}
    </nav>
  );
}

function panel(fold: FoldState, here: boolean, follows: boolean): string {
  const base = `fold-panel relative block h-[46px] min-w-0 border border-thread px-3 py-1 ${follows ? "-ml-px" : ""}`;
  if (here)
    return `${base} fold-here z-10 h-[54px] flex-[1.5] border-indigo bg-indigo text-onindigo`;
  return `${base} flex-1 ${fold.state === "settled" ? "bg-paper" : "bg-folded"}`;
}

function Panel({ fold, here }: { fold: FoldState; here: boolean }) {
  const faint = !here && fold.state === "open" && !fold.ready ? "text-faded" : "";
  const line = here ? "opacity-90" : fold.state === "stale" ? "text-persimmon" : "text-faded";
  return (
    <>
      {here && (
        <svg className="absolute inset-0 h-full w-full text-onindigo opacity-15" aria-hidden>
          <rect width="100%" height="100%" fill="url(#p-sea)" />
        </svg>
      )}
      <span
        className={`relative block truncate leading-tight ${here ? "font-display text-[18px]" : "text-[14.5px] font-medium"} ${faint}`}
      >
        {fold.title}
      </span>
      <span className={`relative block truncate text-[12px] ${line}`}>{said(fold)}</span>
      {fold.state !== "open" && (
        <svg
          width="11"
          height="11"
          className="absolute top-2 right-2"
          role="img"
          aria-label={fold.state}
        >
          {fold.state === "settled" ? (
            <circle
              cx="5.5"
              cy="5.5"
              r="4.5"
              fill="var(--moss)"
              stroke={here ? "var(--onindigo)" : "none"}
            />
          ) : (
            <path d="M5.5 1l5 9h-10z" fill="var(--persimmon)" />
          )}
        </svg>
      )}
    </>
  );
}
