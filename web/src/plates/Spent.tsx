import { inCoins } from "../shell/coin";
import type { OnePlate, Whole } from "./api";

const PARTS = [
  ["hands", "by hand", "url(#w-hands)"],
  ["machine", "machine", "url(#w-machine)"],
  ["material", "material", "var(--clay)"],
  ["power", "power", "var(--water)"],
  ["film", "film or nozzle", "var(--thread)"],
  ["stuff", "gloves, fluid", "var(--folded)"],
  ["lost", "what fails", "var(--persimmon)"],
] as const;
const [WIDE, HIGH] = [400, 18];

/** Where a plate's coins go, as one bar, and what a piece that comes off whole costs. */
export function Spent({ plate }: { plate: OnePlate }) {
  const { spent } = plate;
  const most = Math.max(spent.total, 1e-9);
  const told = PARTS.map(([code, name]) => `${name} ${spent[code].toFixed(2)}`).join(", ");
  const ends = PARTS.map((_, i) => PARTS.slice(0, i + 1).reduce((n, [code]) => n + spent[code], 0));
  return (
    <section aria-label="What it costs">
      <h2 className="text-[18px]">What it costs</h2>
      <p>
        {spent.each == null ? (
          "Nothing of it is expected to come off whole."
        ) : (
          <>
            <b className="font-medium">{inCoins(spent.each)}</b> a piece that comes off whole,{" "}
            {spent.total.toFixed(2)} the plate, with what fails made again. Power, gloves and fluid,
            and minutes a plate are priors.
          </>
        )}
      </p>
      <svg
        viewBox={`0 0 ${WIDE} ${HIGH}`}
        preserveAspectRatio="none"
        className="mt-1 h-5 w-full"
        role="img"
        aria-label={told}
      >
        {PARTS.map(([code, , fill], i) => (
          <rect
            key={code}
            x={((ends[i] - spent[code]) / most) * WIDE}
            width={(spent[code] / most) * WIDE}
            height={HIGH}
            fill={fill}
            stroke="var(--paper)"
            strokeWidth={0.8}
          />
        ))}
      </svg>
      <p className="mt-1 flex flex-wrap gap-x-3 text-[12.5px] text-faded">
        {PARTS.filter(([code]) => spent[code] > 0.005).map(([code, name, fill]) => (
          <span key={code} className="flex items-center gap-1">
            <svg width={11} height={11} aria-hidden>
              <rect width={11} height={11} fill={fill} stroke="var(--faded)" strokeWidth={0.5} />
            </svg>
            {name} {spent[code].toFixed(2)}
          </span>
        ))}
      </p>
    </section>
  );
}

const [CURVE_W, CURVE_H, FOOT] = [400, 110, 16];

/** Expected hours a good piece by how many of the first plan are printed at once. */
export function Curve({ whole }: { whole: Whole }) {
  const { curve } = whole;
  if (curve.length < 2) return null;
  const best = curve.reduce((a, b) => (b[1] < a[1] - 1e-9 ? b : a));
  const most = Math.max(...curve.map(([, h]) => h));
  const x = (n: number) => 14 + ((n - 1) / (curve.length - 1)) * (CURVE_W - 28);
  const y = (h: number) => 6 + (1 - h / most) * (CURVE_H - FOOT - 12);
  const first = whole.pieces.at(0);
  return (
    <section aria-label="How many at once">
      <h2 className="text-[18px]">How many at once</h2>
      <p>
        {best[0]} of {first?.figure_name} at once: {best[1].toFixed(2)} h a good piece
        {best[0] > 1 && `, ${curve[0][1].toFixed(2)} h one by one`}. From its risk and what one lost
        piece does to the rest (priors).
      </p>
      <svg
        viewBox={`0 0 ${CURVE_W} ${CURVE_H}`}
        className="mt-1 w-full"
        role="img"
        aria-label={curve.map(([n, h]) => `${n} at once ${h.toFixed(2)} h`).join(", ")}
      >
        <line
          x1={8}
          x2={CURVE_W - 8}
          y1={CURVE_H - FOOT}
          y2={CURVE_H - FOOT}
          stroke="var(--thread)"
        />
        <path
          d={`M${curve.map(([n, h]) => `${x(n).toFixed(1)} ${y(h).toFixed(1)}`).join("L")}`}
          fill="none"
          stroke="var(--indigo)"
          strokeWidth={1.2}
        />
        {curve.map(([n, h]) => (
          <g key={n}>
            <circle
              cx={x(n)}
              cy={y(h)}
              r={n === best[0] ? 4 : 1.8}
              fill={n === best[0] ? "var(--persimmon)" : "var(--indigo)"}
            />
            {(n === 1 || n === best[0] || n === curve.length) && (
              <text x={x(n)} y={CURVE_H - 4} fontSize={11} textAnchor="middle" fill="var(--faded)">
                {n}
              </text>
            )}
          </g>
        ))}
      </svg>
    </section>
  );
}
