import { coin } from "../shell/coin";
import type { SeriesWhole } from "../api/memory";
import { percent } from "../shell/format";
import { effectsOf, told, type Effect } from "./read";

const [WIDE, HIGH, LEFT, BELOW] = [260, 120, 44, 24];

/** What each level does to each response, with its interval, and the chance that it is the best. */
export function Effects({ series }: { series: SeriesWhole }) {
  const effects = effectsOf(series.doc);
  if (!effects.length) return null;
  const { knee } = series.doc;
  return (
    <section aria-label="Effects" className="mt-4">
      <h2 className="text-[18px]">What each level does</h2>
      <p className="text-[13px] text-faded">
        Bars reach where it lies in 19 of 20 cases; below each level its chance to be the best.
      </p>
      <div className="flex flex-wrap gap-6">
        {effects.map((effect) => (
          <Chart
            key={`${effect.response} ${effect.factor}`}
            effect={effect}
            kind={series.spec.responses[effect.response]}
            knee={
              knee?.factor === effect.factor && knee.response === effect.response
                ? told(knee.level)
                : null
            }
          />
        ))}
      </div>
      {knee && (
        <p className="mt-2 border-l-4 border-moss bg-paper px-3 py-1.5">
          The knee: {knee.factor} {told(knee.level)}. The next step costs {knee.hours.toFixed(1)} h,
          that is {knee.costs.toFixed(1)} {coin()}, and buys {knee.buys.toFixed(1)}.
        </p>
      )}
    </section>
  );
}

/** A share of the chart's height, from its foot. */
const scaleOf = (effect: Effect) => {
  const low = Math.min(...effect.levels.map((l) => l.low));
  const high = Math.max(...effect.levels.map((l) => l.high));
  const room = (high - low || Math.abs(high) || 1) * 0.08;
  const [from, to] = [low - room, high + room];
  return { from, to, y: (v: number) => HIGH - ((v - from) / (to - from)) * HIGH };
};

const short = (v: number) => (Math.abs(v) >= 100 ? v.toFixed(0) : Number(v.toPrecision(2)));

function Chart({ effect, kind, knee }: { effect: Effect; kind: string; knee: string | null }) {
  const { from, to, y } = scaleOf(effect);
  const step = (WIDE - LEFT) / effect.levels.length;
  const at = (i: number) => LEFT + step * (i + 0.5);
  const unit = kind === "yesno" ? "share" : kind === "time" ? "as typed" : kind;
  const said = effect.levels
    .map((l) => `${told(l.level)}: ${short(l.estimate)}, ${short(l.low)} to ${short(l.high)}`)
    .join("; ");
  return (
    <figure className="m-0">
      <figcaption className="text-[13.5px]">
        {effect.response} <span className="text-faded">({unit})</span> by {effect.factor}
      </figcaption>
      <svg width={WIDE} height={HIGH + BELOW + 14} role="img" aria-label={said}>
        {[from + (to - from) * 0.08, (from + to) / 2, to - (to - from) * 0.08].map((v) => (
          <g key={v}>
            <line
              x1={LEFT}
              x2={WIDE}
              y1={y(v)}
              y2={y(v)}
              stroke="var(--thread)"
              strokeWidth="0.6"
            />
            <text x={LEFT - 5} y={y(v) + 4} textAnchor="end" fontSize="11" fill="var(--faded)">
              {short(v)}
            </text>
          </g>
        ))}
        {effect.levels.map((l, i) => (
          <g key={told(l.level)}>
            <line
              x1={at(i)}
              x2={at(i)}
              y1={y(l.low)}
              y2={y(l.high)}
              stroke="var(--water)"
              strokeWidth="5"
            />
            <circle cx={at(i)} cy={y(l.estimate)} r="4" fill="var(--indigo)" />
            {knee === told(l.level) && (
              <path
                d={`M${at(i) - 7} ${y(l.estimate) - 9}l7 7 7-7`}
                fill="none"
                stroke="var(--moss)"
                strokeWidth="2"
              />
            )}
            <text x={at(i)} y={HIGH + 14} textAnchor="middle" fontSize="12" fill="var(--ink)">
              {told(l.level)}
            </text>
            <text x={at(i)} y={HIGH + 29} textAnchor="middle" fontSize="11" fill="var(--faded)">
              {l.best == null ? "" : percent(l.best)}
            </text>
          </g>
        ))}
      </svg>
    </figure>
  );
}
