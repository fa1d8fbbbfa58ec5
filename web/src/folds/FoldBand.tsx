import { NavLink } from "react-router";
import type { PlanState } from "../api/client";

export const TITLES: Record<string, string> = { size: "Size", marks: "Marks", pose: "Pose", supports: "Supports", layers: "Layers", proof: "Proof", log: "Log" };

function detail(fold: PlanState["folds"][number]): string {
  const c = (fold.choice ?? {}) as Record<string, any>;
  if (fold.state === "stale") return "stale: decide again";
  if (!fold.choice) return fold.name === "log" ? "what became of it" : fold.ready ? "open" : "waits";
  if (fold.name === "size") return `${c.height_mm.toFixed(0)} mm, ${c.printer}`;
  if (fold.name === "marks") return c.kinds.length ? c.kinds.map((k: string) => k.replace("_", " ")).join(", ") : c.strokes.length ? "as the file marks it" : "none";
  if (fold.name === "pose") return `way ${c.option + 1} of the board`;
  if (fold.name === "supports") return `${c.tips} tips, ${Math.round(c.risk * 100)} % a tip`;
  if (fold.name === "layers") return `${c.layer_height_mm} mm, ${c.layers}`;
  if (fold.name === "proof") return c.islands ? `${c.islands} islands left` : "no island left";
  return "";
}

/** One long cloth folded into panels in the order of the work. */
export function FoldBand({ plan, current }: { plan: PlanState; current: string }) {
  return (
    <nav aria-label="Folds" className="flex px-8 pt-2.5">
      {plan.folds.map((fold, i) => {
        const here = fold.name === current;
        return (
          <NavLink
            key={fold.name} to={`/plan/${plan.id}/${fold.name}`} aria-current={here ? "step" : undefined} title={fold.reason ?? undefined}
            className={`relative block h-[46px] border border-thread px-3 py-1 ${i ? "-ml-px" : ""} ${here ? "z-10 h-[54px] flex-[1.5] border-indigo bg-indigo text-onindigo" : `flex-1 ${fold.state === "settled" ? "bg-paper" : "bg-folded"}`}`}
            style={here ? undefined : { boxShadow: "inset 5px 0 5px -4px color-mix(in srgb, var(--ink) 22%, transparent)" }}
          >
            {here && <svg className="absolute inset-0 h-full w-full text-onindigo opacity-15" aria-hidden><rect width="100%" height="100%" fill="url(#p-sea)" /></svg>}
            <span className={`relative block leading-tight ${here ? "font-display text-[18px]" : "font-medium text-[14.5px]"} ${!here && fold.state === "open" && !fold.ready ? "text-faded" : ""}`}>{TITLES[fold.name]}</span>
            <span className={`relative block truncate text-[12px] ${here ? "opacity-90" : fold.state === "stale" ? "text-persimmon" : "text-faded"}`}>{detail(fold)}</span>
            {fold.state !== "open" && (
              <svg width="11" height="11" className="absolute right-2 top-2" role="img" aria-label={fold.state}>
                {fold.state === "settled" ? <circle cx="5.5" cy="5.5" r="4.5" fill="var(--moss)" stroke={here ? "var(--onindigo)" : "none"} /> : <path d="M5.5 1l5 9h-10z" fill="var(--persimmon)" />}
              </svg>
            )}
          </NavLink>
        );
      })}
    </nav>
  );
}
