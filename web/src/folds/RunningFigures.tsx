import type { Numbers, PlanState } from "../api/client";
import { clock, percent } from "../shell/format";
import { foldOf } from "./types";

interface Shown {
  label: string;
  value: string;
  change: string | null;
  better: boolean;
  note: string;
}

function delta(
  now: number,
  before: number | undefined,
  text: (d: number) => string,
  words: [string, string],
) {
  if (before === undefined || Math.abs(now - before) < 1e-9) return { change: null, better: true };
  const t = text(Math.abs(now - before));
  const word = now < before ? words[0] : words[1];
  return { change: /^0(\.0+)?( |$)/.test(t) ? null : `${t} ${word}`, better: now < before };
}

function figures(now: Numbers, before: Numbers | undefined, filament: boolean): Shown[] {
  return [
    {
      label: "Steps",
      value: `${(now.finish_mm * 1000).toFixed(0)} µm`,
      ...delta(now.finish_mm, before?.finish_mm, (d) => `${(d * 1000).toFixed(0)} µm`, [
        "finer",
        "coarser",
      ]),
      note: "on 95 % of slopes",
    },
    {
      label: "Risk of failing",
      value: now.unheld ? "not held yet" : percent(now.risk),
      ...(now.unheld || before?.unheld
        ? { change: null, better: true }
        : delta(now.risk, before?.risk, (d) => `${Math.round(d * 100)} points`, [
            "lower",
            "higher",
          ])),
      note: now.unheld ? "" : "prior",
    },
    {
      label: "Time",
      value: clock(now.time_s),
      ...delta(now.time_s, before?.time_s, (d) => `${Math.round(d / 60)} min`, ["less", "more"]),
      note: now.unheld ? "without supports" : filament ? "by its path" : "by formula",
    },
    {
      label: filament ? "Filament and waste" : "Resin and waste",
      value: filament ? `${now.mass_g.toFixed(0)} g` : `${now.volume_ml.toFixed(1)} ml`,
      ...delta(now.cost, before?.cost, (d) => d.toFixed(2), ["cheaper", "dearer"]),
      note: now.cost.toFixed(2),
    },
  ];
}

interface Props {
  plan: PlanState;
  preview?: Numbers | null;
  /** What the alternative is measured against, where that is not what was settled. */
  against?: Numbers | null;
}

/**
 * The four running figures, each with its change since the decision before. `preview` shows what an
 * alternative would make of them.
 */
export function RunningFigures({ plan, preview, against }: Props) {
  const now = preview ?? plan.numbers;
  if (!now)
    return (
      <div className="px-8 py-3 text-[13.5px] text-faded max-[1100px]:px-5">
        Finish, risk, time and cost appear here as soon as a pose has been computed.
      </div>
    );
  const before =
    (preview ? (against !== undefined ? against : plan.numbers) : plan.before) ?? undefined;
  const filament = foldOf(plan, "size").choice?.process === "filament";
  return (
    <dl
      className="flex flex-wrap items-baseline gap-x-9 gap-y-1 px-8 py-2.5 max-[1100px]:gap-x-6 max-[1100px]:px-5"
      aria-label={preview ? "Running figures of the alternative shown" : "Running figures"}
    >
      {figures(now, before, filament).map((s) => (
        <div key={s.label} className="flex items-baseline gap-2">
          <dt className="text-[13px] text-faded">{s.label}</dt>
          <dd className="flex items-baseline gap-2">
            <span className="font-display text-[23px] leading-none text-indigo max-[1100px]:text-[19px]">
              {s.value}
            </span>
            {s.change && (
              <span className={`text-[12.5px] ${s.better ? "text-moss" : "text-persimmon"}`}>
                {s.change}
              </span>
            )}
            {s.note && (
              <span className="text-[12.5px] text-faded max-[1100px]:hidden">{s.note}</span>
            )}
          </dd>
        </div>
      ))}
    </dl>
  );
}
