import { scaleLinear } from "d3-scale";
import { area } from "d3-shape";
import type { Section } from "../stage/scene";
import { useWidth } from "../ui/useWidth";

const HALF = 30;
const [ABOVE, BELOW] = [36, 106];

const at = (s: Section, z: number) =>
  s.area_mm2.at(Math.floor((z - s.base) / s.layer_height_mm)) ?? 0;

/** Two figures on their sides under each other, on one scale: what differs is woven. */
export function Ribbons({ above, below }: { above: Section; below: Section }) {
  const { ref, width } = useWidth<HTMLDivElement>(1216);
  const low = Math.min(above.base, below.base);
  const top = Math.max(
    ...[above, below].map((s) => s.base + s.layer_height_mm * s.area_mm2.length),
  );
  const widest = Math.max(...above.area_mm2, ...below.area_mm2, 1e-9);
  const x = scaleLinear([low, top], [0, width]);
  const half = (a: number) => Math.sqrt(a / widest) * HALF;
  const shape = (s: Section, middle: number) =>
    area<number>()
      .x((_, i) => x(s.base + (i + 0.5) * s.layer_height_mm))
      .y0((a) => middle - half(a))
      .y1((a) => middle + half(a))(s.area_mm2) ?? "";
  const every = Math.min(above.layer_height_mm, below.layer_height_mm);
  const count = Math.max(1, Math.round((top - low) / every));
  const differs = Array.from({ length: count }, (_, i) => low + (i + 0.5) * every)
    .map((z) => {
      const [a, b] = [at(above, z), at(below, z)];
      return { x: x(z), share: Math.abs(b - a) / Math.max(a, b, 1e-9) };
    })
    .filter((d) => d.share > 0.005);
  return (
    <div ref={ref}>
      <div className="mb-0.5 flex flex-wrap gap-x-5 text-[12.5px] text-faded">
        <b className="font-semibold text-ink">Two figures on their sides</b>
        <span>above: {above.title}</span>
        <span>below: {below.title}</span>
        <span className="ml-auto">
          {differs.length
            ? `sections differ at ${differs.length} of ${count} heights`
            : "every section is the same"}
        </span>
      </div>
      <svg
        width={width}
        height={150}
        role="img"
        aria-label={`Sections of ${above.title} and of ${below.title} by height`}
      >
        {differs.map((d) => (
          <rect
            key={d.x}
            x={d.x - 1.5}
            width="3"
            y="4"
            height="136"
            fill="url(#p-hemp)"
            opacity={0.3 + Math.min(0.6, d.share)}
          />
        ))}
        <path d={shape(above, ABOVE)} fill="var(--section)" stroke="var(--clay)" />
        <path d={shape(below, BELOW)} fill="var(--section)" stroke="var(--indigo)" />
        <line x2={width} y1="71" y2="71" stroke="var(--thread)" />
      </svg>
    </div>
  );
}
