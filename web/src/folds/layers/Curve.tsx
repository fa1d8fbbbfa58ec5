import { scaleLinear } from "d3-scale";
import type { LayersRow } from "../../api/client";
import { hm } from "../../shell/format";
import { useWidth } from "../../ui/useWidth";

const HIGH = 168;
const PAD = { left: 46, right: 66, top: 12, bottom: 34 };

interface Props {
  /** Of one height each, finest first. */
  rows: readonly LayersRow[];
  /** A row in bands beside them: it is no point of their curve. */
  apart?: LayersRow;
  shown: number;
  best: number;
  onOption: (o: number) => void;
}

/** What one step finer costs and gains, in the words that belong at its line. */
function bought(coarser: LayersRow, finer: LayersRow): string {
  const minutes = (finer.height.time_s - coarser.height.time_s) / 60;
  const gained = (coarser.height.cusp_mm.p95 - finer.height.cusp_mm.p95) * 1000;
  return `+${minutes.toFixed(0)} min, −${gained.toFixed(0)} µm`;
}

/** Steps against hours: where the curve bends, and what one more step would buy. */
export function Curve({ rows, apart, shown, best, onOption }: Props) {
  const { ref, width } = useWidth<HTMLDivElement>(600);
  const wide = Math.min(width, 680);
  const points = apart ? [...rows, apart] : rows;
  const times = points.map((r) => r.height.time_s / 3600);
  const steps = points.map((r) => r.height.cusp_mm.p95 * 1000);
  const x = scaleLinear(
    [Math.min(...times), Math.max(...times)],
    [PAD.left + 26, wide - PAD.right],
  ).nice(4);
  const y = scaleLinear([0, Math.max(...steps, 1)], [HIGH - PAD.bottom, PAD.top]).nice(3);
  const place = (i: number) => [x(times[i]), y(steps[i])] as const;
  return (
    <div ref={ref} className="mt-2">
      <svg width={wide} height={HIGH} role="img" aria-label="Steps against hours for each height">
        {y.ticks(3).map((v) => (
          <g key={v} transform={`translate(0 ${y(v)})`}>
            <line
              x1={PAD.left}
              x2={wide - PAD.right + 20}
              stroke="var(--thread)"
              strokeWidth="0.6"
            />
            <text x={PAD.left - 6} dy="4" textAnchor="end" fontSize="11" fill="var(--faded)">
              {v}
            </text>
          </g>
        ))}
        {x.ticks(4).map((v) => (
          <text
            key={v}
            x={x(v)}
            y={HIGH - PAD.bottom + 15}
            textAnchor="middle"
            fontSize="11"
            fill="var(--faded)"
          >
            {hm(v * 3600)}
          </text>
        ))}
        <text x={PAD.left - 6} y={HIGH - 4} textAnchor="end" fontSize="11" fill="var(--faded)">
          µm
        </text>
        <text
          x={wide - PAD.right + 20}
          y={HIGH - 4}
          textAnchor="end"
          fontSize="11"
          fill="var(--faded)"
        >
          printing time, h:min
        </text>
        <polyline
          points={rows.map((_, i) => place(i).join()).join(" ")}
          fill="none"
          stroke="var(--water)"
          strokeWidth="1.4"
        />
        {rows.slice(1).map((r, i) => {
          const [[x0, y0], [x1, y1]] = [place(i + 1), place(i)];
          const near = i === shown || i + 1 === shown;
          return (
            <text
              key={r.height.layer_height_mm}
              x={(x0 + x1) / 2 + 8}
              y={(y0 + y1) / 2 - 6}
              fontSize="11"
              fill={near ? "var(--ink)" : "var(--faded)"}
            >
              {bought(r, rows[i])}
            </text>
          );
        })}
        {points.map((r, i) => {
          const [px, py] = place(i);
          return (
            <g
              key={r.bands ? "bands" : r.height.layer_height_mm}
              onClick={() => onOption(i)}
              className="cursor-pointer"
            >
              <circle cx={px} cy={py} r="14" fill="transparent" />
              <circle
                cx={px}
                cy={py}
                r={i === shown ? 6 : 4}
                fill={i === shown ? "var(--indigo)" : "var(--paper)"}
                stroke={i === best ? "var(--moss)" : "var(--indigo)"}
                strokeWidth="2"
              />
              <text
                x={px - 9}
                y={py + 16}
                fontSize="11.5"
                textAnchor="end"
                fill="var(--ink)"
                fontWeight={i === shown ? 600 : 400}
              >
                {r.bands ? "in bands" : `${r.height.layer_height_mm} mm`}
              </text>
            </g>
          );
        })}
      </svg>
    </div>
  );
}
