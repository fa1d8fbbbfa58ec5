import type { MachinePage } from "../api/memory";
import { percent } from "../shell/format";

type Read = MachinePage["calibration"];
const [SIDE, EDGE] = [230, 50];
const FEW = 20;

/** What was told beside what was seen: on the stitched line they are the same. */
export function Calibration({ read }: { read: Read }) {
  const runs = read.bins.reduce((n, bin) => n + bin.runs, 0);
  if (!runs) return null;
  const most = Math.max(0.2, ...read.bins.map((b) => Math.max(b.told, Math.min(b.high, 0.6))));
  const x = (v: number) => EDGE + (v / most) * (SIDE - EDGE - 8);
  const y = (v: number) => SIDE - EDGE - (Math.min(v, most) / most) * (SIDE - EDGE - 8);
  const ticks = [0, most / 2, most];
  return (
    <section aria-label="Told and seen">
      <h2 className="text-[18px]">Was it told right?</h2>
      <svg
        width={SIDE}
        height={SIDE}
        role="img"
        aria-label={read.bins
          .map((b) => `told ${percent(b.told)}, seen ${percent(b.seen)} of ${b.runs}`)
          .join("; ")}
      >
        <line
          x1={x(0)}
          y1={y(0)}
          x2={x(most)}
          y2={y(most)}
          stroke="var(--faded)"
          strokeDasharray="5 4"
        />
        {ticks.map((v) => (
          <g key={v} fontSize="11" fill="var(--faded)">
            <text x={x(v)} y={SIDE - EDGE + 15} textAnchor={v === most ? "end" : "middle"}>
              {percent(v)}
            </text>
            <text x={EDGE - 5} y={y(v) + 4} textAnchor="end">
              {percent(v)}
            </text>
          </g>
        ))}
        <text
          x={x(most / 2)}
          y={SIDE - EDGE + 32}
          textAnchor="middle"
          fontSize="11"
          fill="var(--faded)"
        >
          told to fail
        </text>
        <text
          transform={`translate(10 ${y(most / 2)}) rotate(-90)`}
          textAnchor="middle"
          fontSize="11"
          fill="var(--faded)"
        >
          failed
        </text>
        {read.bins.map((b) => (
          <g key={b.told}>
            <line
              x1={x(b.told)}
              x2={x(b.told)}
              y1={y(b.low)}
              y2={y(b.high)}
              stroke="var(--water)"
              strokeWidth="4"
            />
            <circle cx={x(b.told)} cy={y(b.seen)} r="4" fill="var(--indigo)" />
          </g>
        ))}
      </svg>
      <p className="text-[13px] text-faded">
        {read.brier != null && `Brier ${read.brier.toFixed(3)} of ${runs} outcomes. `}
        {read.hours_coverage != null &&
          `${percent(read.hours_coverage)} of the hours lay where its log had said (95 % wanted). `}
        {runs < FEW && "So few show a direction, not yet a rate."}
      </p>
    </section>
  );
}
