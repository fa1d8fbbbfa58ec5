import { useEffect, useMemo, useRef, useState } from "react";
import type { PoseMapData } from "../../api/documents";
import { useView } from "../../shell/view";
import { crest, nearest, type Down } from "./globe";

interface Props { map: PoseMapData; values: number[]; better: "small" | "large"; front: number[]; pins: { down: Down; text: string; recommended: boolean }[]; shown: number; hand: Down | null; onPick: (d: Down) => void; onPin: (i: number) => void; onHover: (i: number | null) => void }

const R = 85;
const STEPS = 6;

/** Ranks 0 (best) to 1 of each value among all. */
function ranks(values: number[], better: "small" | "large"): Float32Array {
  const sorted = [...values].sort((a, b) => a - b);
  const below = (v: number) => { let [lo, hi] = [0, sorted.length]; while (lo < hi) { const m = (lo + hi) >> 1; if (sorted[m] < v) lo = m + 1; else hi = m; } return lo; };
  return Float32Array.from(values, (v) => { const r = below(v) / Math.max(1, sorted.length - 1); return better === "small" ? r : 1 - r; });
}

function mixed(from: string, to: string, share: number): [number, number, number] {
  const rgb = (c: string) => [1, 3, 5].map((i) => parseInt(c.slice(i, i + 2), 16));
  const [a, b] = [rgb(from), rgb(to)];
  return [0, 1, 2].map((i) => Math.round(a[i] + (b[i] - a[i]) * share)) as [number, number, number];
}

/** All directions as two crests of equal areas, dyed by one aim: pale cloth is good, deep indigo is bad. */
export function PoseMap({ map, values, better, front, pins, shown, hand, onPick, onPin, onHover }: Props) {
  const theme = useView((s) => s.theme);
  const downs = useMemo(() => Float32Array.from(map.down.flat()), [map]);
  const halves = useMemo(() => ([1, -1] as const).map((side) => {
    const c = crest(side, R);
    const cells = new Int32Array(4 * R * R).fill(-1);
    for (let y = 0; y < 2 * R; y++) for (let x = 0; x < 2 * R; x++) { const d = c.direction(x + 0.5, y + 0.5); if (d) cells[y * 2 * R + x] = nearest(downs, d); }
    return { side, c, cells };
  }), [downs]);
  const rank = useMemo(() => ranks(values, better), [values, better]);
  const canvases = [useRef<HTMLCanvasElement>(null), useRef<HTMLCanvasElement>(null)];
  useEffect(() => {
    const style = getComputedStyle(document.documentElement);
    const [pale, deep] = theme === "night" ? ["#ece6d6", "#0d1628"] : [style.getPropertyValue("--paper").trim(), style.getPropertyValue("--indigo").trim()];
    const dye = Array.from({ length: STEPS }, (_, i) => mixed(pale, deep, (i / (STEPS - 1)) * 0.92));
    halves.forEach(({ cells }, h) => {
      const ink = canvases[h].current!.getContext("2d")!;
      const image = ink.createImageData(2 * R, 2 * R);
      cells.forEach((cell, at) => {
        if (cell < 0) return;
        const [r, g, b] = dye[Math.min(STEPS - 1, Math.floor(rank[cell] * STEPS))];
        image.data.set([r, g, b, 255], 4 * at);
      });
      ink.putImageData(image, 0, 0);
    });
  }, [halves, rank, theme]);
  const [focus, setFocus] = useState<Down>(hand ?? (map.down[0] as Down));
  const at = hand ?? focus;
  const walk = (e: React.KeyboardEvent, side: 1 | -1) => {
    const step: Record<string, [number, number]> = { ArrowLeft: [-6, 0], ArrowRight: [6, 0], ArrowUp: [0, -6], ArrowDown: [0, 6] };
    if (!(e.key in step)) return;
    e.preventDefault();
    const c = crest(side, R);
    const here = c.holds(at) ? c.place(at) : [R, R];
    const to = c.direction(here[0] + step[e.key][0], here[1] + step[e.key][1]);
    if (to) { setFocus(to); onPick(to); }
  };
  return (
    <div className="flex gap-5">
      {halves.map(({ side, c, cells }, h) => (
        <figure key={side} className="relative" style={{ width: 2 * R }}>
          <canvas ref={canvases[h]} width={2 * R} height={2 * R} aria-hidden className="rounded-full" />
          <svg
            width={2 * R} height={2 * R} tabIndex={0} role="application" aria-label={`${side === 1 ? "On its feet" : "On its head"}: directions as a map. Arrow keys walk it.`} className="absolute left-0 top-0 cursor-crosshair overflow-visible rounded-full outline-none focus-visible:outline-2 focus-visible:outline-(--water)"
            onKeyDown={(e) => walk(e, side)} onPointerLeave={() => onHover(null)}
            onPointerMove={(e) => { const b = e.currentTarget.getBoundingClientRect(); const cell = cells[Math.floor(e.clientY - b.top) * 2 * R + Math.floor(e.clientX - b.left)]; onHover(cell >= 0 ? cell : null); }}
            onClick={(e) => { const b = e.currentTarget.getBoundingClientRect(); const d = c.direction(e.clientX - b.left, e.clientY - b.top); if (d) { setFocus(d); onPick(d); } }}
          >
            <circle cx={R} cy={R} r={R - 0.5} fill="none" stroke="var(--clay)" />
            {[30, 60].map((deg) => <circle key={deg} cx={R} cy={R} r={R * Math.SQRT2 * Math.sin((deg * Math.PI) / 360)} fill="none" stroke="var(--water)" strokeWidth="0.7" strokeDasharray="2 4" />)}
            {front.filter((i) => c.holds(map.down[i] as Down)).map((i) => { const [x, y] = c.place(map.down[i] as Down); return <path key={i} d={`M${x} ${y - 1.7}l1.7 1.7-1.7 1.7-1.7-1.7z`} fill="#4c6b3c" stroke="#faf7ef" strokeWidth="0.4" />; })}
            {pins.map((p, i) => {
              if (!c.holds(p.down)) return null;
              const [x, y] = c.place(p.down);
              return (
                <g key={i} transform={`translate(${x} ${y})`} className="cursor-pointer" onClick={(e) => { e.stopPropagation(); onPin(i); }}>
                  <title>{p.text}</title>
                  <circle r="9" fill={i === shown ? "var(--persimmon)" : "#faf7ef"} stroke="var(--persimmon)" strokeWidth={p.recommended ? 2.6 : 1.4} />
                  <text textAnchor="middle" dy="4" fontSize="11.5" fontWeight="600" fill={i === shown ? "#faf7ef" : "#20375f"}>{i + 1}</text>
                </g>
              );
            })}
            {hand && c.holds(hand) && (() => { const [x, y] = c.place(hand); return <g transform={`translate(${x} ${y})`} pointerEvents="none"><circle r="7" fill="none" stroke="#faf7ef" strokeWidth="4" /><circle r="7" fill="none" stroke="var(--persimmon)" strokeWidth="2.2" /><path d="M-11 0h22M0-11v22" stroke="var(--persimmon)" strokeWidth="1.2" /></g>; })()}
          </svg>
          <figcaption className="mt-0.5 flex justify-between text-[11.5px] text-faded"><span>{side === 1 ? "middle: on its feet" : "middle: on its head"}</span><span>rim: lying</span></figcaption>
        </figure>
      ))}
    </div>
  );
}
