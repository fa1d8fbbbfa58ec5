import type { PlanState } from "../api/client";
import type { Numbers } from "../api/documents";
import { clock, percent } from "../shell/format";

interface Shown { label: string; value: string; change: string | null; better: boolean; note: string }

function delta(now: number, before: number | undefined, text: (d: number) => string, words: [string, string]): { change: string | null; better: boolean } {
  if (before === undefined || Math.abs(now - before) < 1e-9) return { change: null, better: true };
  const d = now - before;
  const t = text(Math.abs(d));
  return { change: /^0(\.0+)?( |$)/.test(t) ? null : `${t} ${d < 0 ? words[0] : words[1]}`, better: d < 0 };
}

/** The four running figures, each with its change since the decision before. `preview` shows what an alternative would make of them; `bare` is what it
 *  is measured against where neither has supports yet. */
export function RunningFigures({ plan, preview, bare }: { plan: PlanState; preview?: Numbers | null; bare?: Numbers | null }) {
  const settled = plan.numbers as unknown as Numbers | null;
  const now = preview ?? settled;
  const before = (preview && bare !== undefined ? bare : preview ? settled : (plan.before as unknown as Numbers | null)) ?? undefined;
  if (!now) return <div className="px-8 py-3 text-[13.5px] text-faded">Finish, risk, time and cost appear here as soon as a pose has been computed.</div>;
  const size = plan.folds[0].choice as { process?: string } | null;
  const rough = size?.process === "filament";
  const shown: Shown[] = [
    { label: "Steps", value: `${(now.finish_mm * 1000).toFixed(0)} µm`, ...delta(now.finish_mm, before?.finish_mm, (d) => `${(d * 1000).toFixed(0)} µm`, ["finer", "coarser"]), note: "on 95 % of slopes" },
    { label: "Risk of failing", value: percent(now.risk), ...delta(now.risk, before?.risk, (d) => `${Math.round(d * 100)} points`, ["lower", "higher"]), note: now.unheld ? "unheld, prior" : "prior" },
    { label: "Time", value: clock(now.time_s), ...delta(now.time_s, before?.time_s, (d) => `${Math.round(d / 60)} min`, ["less", "more"]), note: now.unheld ? "without supports" : rough ? "rough" : "by formula" },
    { label: rough ? "Filament and waste" : "Resin and waste", value: rough ? `${now.mass_g.toFixed(0)} g` : `${now.volume_ml.toFixed(1)} ml`, ...delta(now.cost, before?.cost, (d) => d.toFixed(2), ["cheaper", "dearer"]), note: now.cost.toFixed(2) },
  ];
  return (
    <dl className="flex flex-wrap items-baseline gap-x-9 gap-y-1 px-8 py-2.5" aria-label={preview ? "Running figures of the alternative shown" : "Running figures"}>
      {shown.map((s) => (
        <div key={s.label} className="flex items-baseline gap-2">
          <dt className="text-[13px] text-faded">{s.label}</dt>
          <dd className="flex items-baseline gap-2">
            <span className="font-display text-[23px] leading-none text-indigo">{s.value}</span>
            {s.change && <span className={`text-[12.5px] ${s.better ? "text-moss" : "text-persimmon"}`}>{s.change}</span>}
            <span className="text-[12.5px] text-faded">{s.note}</span>
          </dd>
        </div>
      ))}
    </dl>
  );
}
