import { scaleLinear } from "d3-scale";
import { area, curveLinear, line } from "d3-shape";
import { useEffect, useMemo, useRef, useState, type KeyboardEvent, type PointerEvent } from "react";
import type { StripData } from "../api/documents";
import { Swatch } from "../patterns/Patterns";
import { clock, mm } from "../shell/format";

interface Props { data: StripData | null; layer: number | null; onLayer: (layer: number | null) => void; stale?: boolean; empty: string; compact?: boolean; title?: string; low?: boolean }

const TALL = { high: 150, axis: 132, mid: 56, half: 40 };
/** Two under each other take the room of one. */
const LOW = { high: 66, axis: 51, mid: 22, half: 19 };

export function useWidth() {
  const ref = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(1216);
  useEffect(() => {
    const watch = new ResizeObserver(([entry]) => setWidth(entry.contentRect.width));
    if (ref.current) watch.observe(ref.current);
    return () => watch.disconnect();
  }, []);
  return { ref, width };
}

/** The figure laid on its side: x is height above the plate. Drag along it and the figure is cut there. */
export function Strip({ data, layer, onLayer, stale, empty, compact, title, low }: Props) {
  const { high: HIGH, axis: AXIS, mid: MID, half: HALF } = compact ? LOW : TALL;
  const { ref, width } = useWidth();
  const drawn = useMemo(() => {
    if (!data || !data.layers) return null;
    const x = scaleLinear([0, data.layers], [0, width]);
    const radius = data.area_mm2.map((a) => Math.sqrt(a / Math.PI));
    const widest = Math.max(...radius, 1e-6);
    const column = (i: number) => x(Math.min(data.layers, (i + 0.5) * data.layers_per_column));
    const outline = area<number>().x((_, i) => column(i)).y0((r) => MID - (r / widest) * HALF).y1((r) => MID + (r / widest) * HALF).curve(curveLinear)(radius);
    // Sealed space on the scale of the section: what is a pinhole in the figure is a pinhole here.
    const sealed = area<number>().defined((a) => a > 0.01).x((_, i) => column(i)).y0((a) => MID - (Math.sqrt(a / Math.PI) / widest) * HALF).y1((a) => MID + (Math.sqrt(a / Math.PI) / widest) * HALF)(data.sealed_mm2) ?? "";
    const strongest = Math.max(...data.pull_n, 1e-9);
    const pull = data.has_pull ? line<number>().x((_, i) => column(i)).y((p) => AXIS - 2 - (p / strongest) * (compact ? 14 : 30))(data.pull_n) : null;
    const hang = data.overhang_mm2.map((v, i) => [i, v] as const).filter(([, v]) => v > 0.05);
    const tips = [...new Set(data.tip_layers.map((l) => Math.round(x(l) / 3)))];
    return { x, outline, sealed, pull, strongest, hang, tips, widest, column, radius };
  }, [data, width, compact, MID, HALF, AXIS]);

  if (!data || !drawn) return <div ref={ref} className={`flex ${low ? "h-[34px]" : "h-[170px]"} items-center justify-center text-faded`}>{empty}</div>;
  const { x } = drawn;
  const at = layer == null ? null : Math.min(Math.max(layer, 0), data.layers - 1);
  const z = at == null ? 0 : (at + 1) * data.layer_height_mm;
  const when = at == null ? 0 : data.clock_s[Math.min(data.clock_s.length - 1, Math.floor(at / data.layers_per_column))];
  const pick = (event: PointerEvent<SVGSVGElement>) => {
    const box = event.currentTarget.getBoundingClientRect();
    onLayer(Math.round(Math.min(Math.max(x.invert(event.clientX - box.left), 0), data.layers - 1)));
  };
  const step = (event: KeyboardEvent) => {
    const here = at ?? data.layers - 1;
    const to: Record<string, number> = { ArrowRight: here + 1, ArrowUp: here + 1, ArrowLeft: here - 1, ArrowDown: here - 1, PageUp: here + 20, PageDown: here - 20, Home: 0, End: data.layers - 1 };
    if (event.key === "Escape") return onLayer(null);
    if (!(event.key in to)) return;
    event.preventDefault();
    onLayer(Math.min(Math.max(to[event.key], 0), data.layers - 1));
  };
  const patch = (from: number, until: number) => ({ x: x(from), width: Math.max(7, x(Math.min(until, data.layers)) - x(from)) });
  const top = data.layers * data.layer_height_mm;
  const every = [1, 2, 5, 10, 20, 25, 50].find((s) => top / s <= 12) ?? 100;
  return (
    <div ref={ref} className={stale ? "opacity-55" : ""}>
      <div className="mb-0.5 flex items-center gap-5 text-[12.5px] text-faded">
        <b className="font-semibold text-ink">{title ?? "The figure on its side"}</b>
        <span className="flex items-center gap-1.5"><svg width="20" height="12" aria-hidden><rect x=".5" y=".5" width="19" height="11" fill="var(--section)" stroke="var(--thread)" /></svg>section</span>
        <span className="flex items-center gap-1.5"><Swatch code="island" size={13} />starts in mid air <b className="font-medium text-ink">{data.islands.length}</b></span>
        <span className="flex items-center gap-1.5"><Swatch code="sealed" size={13} />sealed <b className="font-medium text-ink">{data.sealed.length}</b></span>
        <span className="flex items-center gap-1.5"><Swatch code="overhang" size={13} />overhang</span>
        {!compact && <span className="flex items-center gap-1.5"><Swatch code="tips" size={13} />tips <b className="font-medium text-ink">{data.tip_layers.length}</b></span>}
        {data.has_pull && <span className="flex items-center gap-1.5"><svg width="18" height="12" aria-hidden><path d="M0 9q5-9 9-3t9-4" fill="none" stroke="var(--indigo)" strokeWidth="1.4" /></svg>pull, at most <b className="font-medium text-ink">{drawn.strongest.toFixed(1)} N</b></span>}
        {stale && <span className="text-persimmon">stale</span>}
        <span className="ml-auto text-ink" data-testid="cut-readout">{at == null ? `${data.layers.toLocaleString("en")} layers, ${mm(top, 1)}, ${clock(data.time_s)}` : `layer ${at + 1} of ${data.layers.toLocaleString("en")}   ${mm(z)}   ${clock(when)} after start`}</span>
        {at != null && <button type="button" className="text-indigo underline underline-offset-2" onClick={() => onLayer(null)}>whole</button>}
      </div>
      <svg
        width={width} height={HIGH} role="slider" tabIndex={0} aria-label="Cut height" aria-valuemin={1} aria-valuemax={data.layers} aria-valuenow={(at ?? data.layers - 1) + 1}
        aria-valuetext={at == null ? "whole figure" : `layer ${at + 1}, ${mm(z)}`} className="block cursor-ew-resize touch-none select-none" onKeyDown={step}
        onPointerDown={(e) => { e.currentTarget.setPointerCapture(e.pointerId); pick(e); }} onPointerMove={(e) => e.buttons && pick(e)}
      >
        <rect width={width} height={HIGH} fill="transparent" />
        <path d={drawn.outline ?? ""} fill="var(--section)" stroke="var(--clay)" strokeWidth="1" />
        <line x1="0" x2={width} y1={MID} y2={MID} stroke="var(--clay)" strokeWidth="0.5" />
        {drawn.hang.map(([i]) => <rect key={i} x={drawn.column(i) - 1} width="2.6" y={MID - (drawn.radius[i] / drawn.widest) * HALF} height={Math.max(3, (drawn.radius[i] / drawn.widest) * HALF * 2)} fill="url(#p-rain)" opacity="0.55" />)}
        <path d={drawn.sealed} fill="url(#p-waves)" stroke="var(--water)" strokeWidth="0.8"><title>sealed space, drawn by its area</title></path>
        {data.islands.map((s, i) => <rect key={i} {...patch(s.layer, s.until)} y={MID - (compact ? 14 : 24) + (i % 4) * (compact ? 5 : 9)} height={compact ? 13 : 21} fill="url(#p-scales)" stroke="var(--persimmon)" strokeWidth="0.8"><title>{`starts in mid air at ${mm(s.layer * data.layer_height_mm)}`}</title></rect>)}
        {drawn.tips.map((t) => <line key={t} x1={t * 3 + 1} x2={t * 3 + 1} y1={MID + HALF + 3} y2={MID + HALF + 10} stroke="var(--indigo)" strokeWidth="1.5" />)}
        {drawn.pull && <path d={drawn.pull} fill="none" stroke="var(--indigo)" strokeWidth="1.4" />}
        <line x1="0" x2={width} y1={AXIS} y2={AXIS} stroke="var(--thread)" />
        {Array.from({ length: Math.floor(top / every) + 1 }, (_, i) => i * every).map((v) => (
          <g key={v} transform={`translate(${x(v / data.layer_height_mm)} ${AXIS})`}>
            <line y2="4" stroke="var(--clay)" />
            <text y={compact ? 13 : 15} x={v === 0 ? 0 : undefined} textAnchor={v === 0 ? "start" : top - v < every * 0.25 ? "end" : "middle"} fontSize="11" fill="var(--faded)">{compact && v ? v : `${v} mm`}</text>
          </g>
        ))}
        {at != null && (
          <g transform={`translate(${x(at + 0.5)} 0)`}><line y1="6" y2={AXIS} stroke="var(--persimmon)" strokeWidth="1.6" /><circle cy="6" r="5" fill="var(--persimmon)" /></g>
        )}
      </svg>
    </div>
  );
}
