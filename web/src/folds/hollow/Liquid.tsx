import { useEffect, useId, useState } from "react";
import type { Liquid as LiquidData } from "../../api/client";

const FRAME_MS = 60;
const PLAY_S = 6;

const pathOf = (lines: number[][][]) =>
  lines.map((l) => `M${l.map(([x, y]) => `${x} ${-y}`).join("L")}Z`).join("");

function boundsOf(lines: number[][][]) {
  const all = lines.flat();
  const [xs, ys] = [all.map(([x]) => x), all.map(([, y]) => -y)];
  const [x, y] = [Math.min(...xs), Math.min(...ys)];
  return { x, y, w: Math.max(...xs) - x, h: Math.max(...ys) - y };
}

/** Height of the surface after some seconds, between the moments that are told. */
export function levelAt({ seconds, level_mm }: LiquidData, t: number): number {
  const next = seconds.findIndex((s) => s >= t);
  if (next <= 0) return next < 0 ? level_mm[level_mm.length - 1] : level_mm[0];
  const share = (t - seconds[next - 1]) / Math.max(seconds[next] - seconds[next - 1], 1e-9);
  return level_mm[next - 1] + share * (level_mm[next] - level_mm[next - 1]);
}

/** A cut through the figure as it is held: wall woven, liquid in waves, and the level as it falls. */
export function Liquid({ data }: { data: LiquidData }) {
  const id = useId();
  const whole = data.seconds[data.seconds.length - 1];
  const [at, setAt] = useState(0);
  const [plays, setPlays] = useState(false);
  useEffect(() => {
    if (!plays) return;
    const step = setInterval(
      () => setAt((t) => Math.min(1, t + FRAME_MS / 1000 / PLAY_S)),
      FRAME_MS,
    );
    return () => clearInterval(step);
  }, [plays]);
  const ends = at >= 1;
  const b = boundsOf(data.figure.length ? data.figure : data.cavity);
  if (!Number.isFinite(b.w)) return null;
  const level = levelAt(data, at * whole);
  const time = (s: number) => (s >= 90 ? `${(s / 60).toFixed(0)} min` : `${Math.round(s)} s`);
  return (
    <figure className="flex min-w-[200px] flex-1 flex-col">
      <svg
        viewBox={`${b.x - 2} ${b.y - 2} ${b.w + 4} ${b.h + 4}`}
        className="h-[150px] w-full"
        role="img"
        aria-label={`Cut through the figure as it is held: ${data.retained_ml.toFixed(2)} ml stay in pockets`}
      >
        <defs>
          <clipPath id={`${id}-in`}>
            <path d={pathOf(data.cavity)} clipRule="evenodd" />
          </clipPath>
        </defs>
        <path d={pathOf(data.figure)} fill="var(--clay)" fillRule="evenodd" />
        <path d={pathOf(data.cavity)} fill="var(--paper)" fillRule="evenodd" />
        <g clipPath={`url(#${id}-in)`}>
          <g transform={`scale(${b.h / 90})`}>
            <rect
              x={(b.x - 2) / (b.h / 90)}
              y={-level / (b.h / 90)}
              width={(b.w + 4) / (b.h / 90)}
              height={(b.h + level + b.y + 4 + Math.abs(b.y)) / (b.h / 90)}
              fill="url(#p-waves)"
              opacity={ends ? 0 : 1}
            />
          </g>
          {data.stays.map(([x, y]) => (
            <rect
              key={`${x} ${y}`}
              x={x - data.cell_mm / 2}
              y={-y - data.cell_mm / 2}
              width={data.cell_mm}
              height={data.cell_mm}
              fill="var(--water)"
              opacity="0.75"
            />
          ))}
        </g>
        <path d={pathOf(data.cavity)} fill="none" stroke="var(--indigo)" strokeWidth={b.h / 260} />
      </svg>
      <figcaption className="mt-1 flex flex-wrap items-center gap-2 text-[12.5px] text-faded">
        <button
          type="button"
          className="quiet px-2 py-0.5 text-[12.5px]"
          onClick={() => {
            if (ends) setAt(0);
            setPlays(ends || !plays);
          }}
        >
          {ends ? "again" : plays ? "hold" : "let it run"}
        </button>
        <input
          type="range"
          aria-label="Moment"
          className="w-28"
          min={0}
          max={1}
          step={0.01}
          value={at}
          onChange={(e) => {
            setPlays(false);
            setAt(Number(e.target.value));
          }}
        />
        <span className="tabular-nums">
          {time(at * whole)} of {time(whole)}
          {data.drain_s == null && ", and no air comes in"}
        </span>
      </figcaption>
    </figure>
  );
}
