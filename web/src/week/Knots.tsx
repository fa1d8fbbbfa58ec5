import { percent } from "../shell/format";
import { minuteOf, type Week } from "./api";

export const WIDE = 1216;
export const TOP = 30;
export const LETTER = 6;
const LINE = 17;

/** The lowest line on which each label finds room: (left, right) of each, in their order. */
export function lanesOf(labels: readonly (readonly [number, number])[]): number[] {
  const ends: number[] = [];
  return labels.map(([from, to]) => {
    const free = ends.findIndex((end) => end <= from);
    const lane = free < 0 ? ends.length : free;
    ends[lane] = to + 10;
    return lane;
  });
}

interface Props {
  week: Week;
  x: (minute: number) => number;
  foot: number;
  end: number;
}

/** Dates as knots that loosen as their chance falls. */
export function Knots({ week, x, foot, end }: Props) {
  const due = week.orders
    .filter((o) => o.due && o.jobs.length && minuteOf(o.due) <= end)
    .sort((p, q) => minuteOf(p.due ?? "") - minuteOf(q.due ?? ""));
  const told = due.map((o) => {
    const said = o.sure == null ? "not woven" : `ready in ${percent(o.sure)} of weeks`;
    const half = ((o.name.length + said.length + 2) * LETTER) / 2;
    const at = x(minuteOf(o.due ?? ""));
    return { o, said, at, middle: Math.min(Math.max(at, half), WIDE - half), half };
  });
  const lanes = lanesOf(told.map((t) => [t.middle - t.half, t.middle + t.half]));
  return (
    <>
      {told.map(({ o, said, at, middle }, i) => {
        const ink = o.sure == null || o.sure >= o.chance ? "var(--moss)" : "var(--persimmon)";
        const wide = o.sure == null ? 8 : 8 + (1 - o.sure) * 12;
        return (
          <g key={o.id}>
            <line x1={at} x2={at} y1={TOP} y2={foot + 8} stroke={ink} strokeWidth={1.4} />
            <path d={knot(at, foot + 13, wide)} fill="none" stroke={ink} strokeWidth={2} />
            <text
              x={middle}
              y={foot + 38 + lanes[i] * LINE}
              fontSize={12.5}
              textAnchor="middle"
              fill="var(--ink)"
            >
              {o.name}: <tspan fill={ink}>{said}</tspan>
            </text>
          </g>
        );
      })}
    </>
  );
}

/** Two loops, the wider the looser. */
function knot(x: number, y: number, wide: number): string {
  const [half, low] = [wide / 2, wide / 3.2];
  const right = `c${half} -${wide / 2.6} ${wide} 0 ${half} ${low}`;
  const left = `s-${wide} -${wide / 2.4} -${wide} 0s${wide / 3} ${wide / 3.4} ${half} -${low}`;
  return `M${x} ${y}${right}${left}`;
}
