import { scaleLinear } from "d3-scale";
import { area } from "d3-shape";
import { useWidth } from "./Strip";

export interface Ribbon { title: string; layer_height_mm: number; area_mm2: number[]; base: number }

const HALF = 30;

/** Two figures on their sides under each other, on one scale: what differs is woven. */
export function Ribbons({ above, below }: { above: Ribbon; below: Ribbon }) {
  const { ref, width } = useWidth();
  const low = Math.min(above.base, below.base);
  const top = Math.max(...[above, below].map((r) => r.base + r.layer_height_mm * r.area_mm2.length));
  const widest = Math.max(...above.area_mm2, ...below.area_mm2, 1e-9);
  const x = scaleLinear([low, top], [0, width]);
  const half = (a: number) => Math.sqrt(a / widest) * HALF;
  const at = (r: Ribbon, z: number) => r.area_mm2[Math.floor((z - r.base) / r.layer_height_mm)] ?? 0;
  const shape = (r: Ribbon, middle: number) => area<number>().x((_, i) => x(r.base + (i + 0.5) * r.layer_height_mm)).y0((a) => middle - half(a)).y1((a) => middle + half(a))(r.area_mm2) ?? "";
  const step = Math.min(above.layer_height_mm, below.layer_height_mm);
  const heights = Array.from({ length: Math.max(1, Math.round((top - low) / step)) }, (_, i) => low + (i + 0.5) * step);
  const differs = heights.map((z) => ({ x: x(z), share: Math.abs(at(below, z) - at(above, z)) / Math.max(at(below, z), at(above, z), 1e-9) })).filter((d) => d.share > 0.005);
  return (
    <div ref={ref}>
      <div className="mb-0.5 flex gap-5 text-[12.5px] text-faded">
        <b className="font-semibold text-ink">Two figures on their sides</b><span>above: {above.title}</span><span>below: {below.title}</span>
        <span className="ml-auto">{differs.length ? `sections differ at ${differs.length} of ${heights.length} heights` : "every section is the same"}</span>
      </div>
      <svg width={width} height={150} role="img" aria-label={`Sections of ${above.title} and of ${below.title} by height`}>
        {differs.map((d, i) => <rect key={i} x={d.x - 1.5} width="3" y="4" height="136" fill="url(#p-hemp)" opacity={0.3 + Math.min(0.6, d.share)} />)}
        <path d={shape(above, 36)} fill="var(--section)" stroke="var(--clay)" />
        <path d={shape(below, 106)} fill="var(--section)" stroke="var(--indigo)" />
        <line x2={width} y1="71" y2="71" stroke="var(--thread)" />
      </svg>
    </div>
  );
}
