import { useMemo, type KeyboardEvent, type PointerEvent } from "react";
import type { StripData } from "../api/client";
import { Swatch } from "../patterns/Patterns";
import { clock, count, mm } from "../shell/format";
import { useWidth } from "../ui/useWidth";
import { draw, LOW, rulerOf, TALL, type Drawn } from "./draw";

interface Props {
  data: StripData;
  layer: number | null;
  onLayer: (layer: number | null) => void;
  stale?: boolean;
  compact?: boolean;
  title?: string;
}

/** The figure laid on its side: x is height above the plate. Drag along it and the figure is cut there. */
export function Strip({ data, layer, onLayer, stale, compact, title }: Props) {
  const { ref, width } = useWidth<HTMLDivElement>(1216);
  const size = compact ? LOW : TALL;
  const drawn = useMemo(() => draw(data, width, size), [data, width, size]);
  const at = layer == null ? null : Math.min(Math.max(layer, 0), data.layers - 1);
  const z = at == null ? 0 : (at + 1) * data.layer_height_mm;
  const pick = (event: PointerEvent<SVGSVGElement>) => {
    const box = event.currentTarget.getBoundingClientRect();
    onLayer(
      Math.round(Math.min(Math.max(drawn.x.invert(event.clientX - box.left), 0), data.layers - 1)),
    );
  };
  return (
    <div ref={ref} className={stale ? "opacity-55" : ""}>
      <Legend
        data={data}
        drawn={drawn}
        compact={compact}
        stale={stale}
        title={title}
        at={at}
        z={z}
        onLayer={onLayer}
      />
      <svg
        width={width}
        height={size.high}
        role="slider"
        tabIndex={0}
        aria-label="Cut height"
        aria-valuemin={1}
        aria-valuemax={data.layers}
        aria-valuenow={(at ?? data.layers - 1) + 1}
        aria-valuetext={at == null ? "whole figure" : `layer ${at + 1}, ${mm(z)}`}
        className="block cursor-ew-resize touch-none select-none"
        onKeyDown={(e) => walk(e, data, at, onLayer)}
        onPointerDown={(e) => {
          e.currentTarget.setPointerCapture(e.pointerId);
          pick(e);
        }}
        onPointerMove={(e) => e.buttons && pick(e)}
      >
        <rect width={width} height={size.high} fill="transparent" />
        <Ribbon data={data} drawn={drawn} width={width} compact={compact} />
        <Ruler data={data} drawn={drawn} width={width} compact={compact} />
        {at != null && (
          <g transform={`translate(${drawn.x(at + 0.5)} 0)`}>
            <line y1="6" y2={size.axis} stroke="var(--persimmon)" strokeWidth="1.6" />
            <circle cy="6" r="5" fill="var(--persimmon)" />
          </g>
        )}
      </svg>
    </div>
  );
}

/** Which layer is looked at; among bands layers are not counted from the finest. */
const hereOf = ({ bands, layers }: StripData, at: number): string =>
  bands?.length ? "cut" : `layer ${at + 1} of ${count(layers)}`;

const MANY = 20;

/** How many layers are printed: those of all bands, where there are some. */
const layersOf = ({ bands, layers }: StripData): number =>
  bands?.length
    ? bands.reduce((n, [top, h], i) => n + Math.round((top - (i ? bands[i - 1][0] : 0)) / h), 0)
    : layers;

function walk(
  event: KeyboardEvent,
  data: StripData,
  at: number | null,
  onLayer: (l: number | null) => void,
) {
  const here = at ?? data.layers - 1;
  const to: Record<string, number> = {
    ArrowRight: here + 1,
    ArrowUp: here + 1,
    ArrowLeft: here - 1,
    ArrowDown: here - 1,
    PageUp: here + MANY,
    PageDown: here - MANY,
    Home: 0,
    End: data.layers - 1,
  };
  if (event.key === "Escape") return onLayer(null);
  if (!(event.key in to)) return;
  event.preventDefault();
  onLayer(Math.min(Math.max(to[event.key], 0), data.layers - 1));
}

interface LegendProps extends Pick<Props, "data" | "compact" | "stale" | "title" | "onLayer"> {
  drawn: Drawn;
  at: number | null;
  z: number;
}

function Legend({ data, drawn, compact, stale, title, at, z, onLayer }: LegendProps) {
  const when =
    at == null
      ? 0
      : data.clock_s[Math.min(data.clock_s.length - 1, Math.floor(at / data.layers_per_column))];
  const item = "flex items-center gap-1.5";
  return (
    <div className="mb-0.5 flex flex-wrap items-center gap-x-5 text-[12.5px] text-faded">
      <b className="font-semibold text-ink">{title ?? "The figure on its side"}</b>
      <span className={item}>
        <svg width="20" height="12" aria-hidden>
          <rect x=".5" y=".5" width="19" height="11" fill="var(--section)" stroke="var(--thread)" />
        </svg>
        section
      </span>
      <span className={item}>
        <Swatch code="island" size={13} />
        starts in mid air <b className="font-medium text-ink">{data.islands.length}</b>
      </span>
      {data.has_pull && (
        <span className={item}>
          <Swatch code="sealed" size={13} />
          sealed <b className="font-medium text-ink">{data.sealed.length}</b>
        </span>
      )}
      <span className={item}>
        <Swatch code="overhang" size={13} />
        overhang
      </span>
      {!compact && (
        <span className={item}>
          <Swatch code="tips" size={13} />
          tips <b className="font-medium text-ink">{data.tip_layers.length}</b>
        </span>
      )}
      {data.has_pull && (
        <span className={item}>
          <svg width="18" height="12" aria-hidden>
            <path d="M0 9q5-9 9-3t9-4" fill="none" stroke="var(--indigo)" strokeWidth="1.4" />
          </svg>
          pull, at most <b className="font-medium text-ink">{drawn.strongest.toFixed(1)} N</b>
        </span>
      )}
      {!!data.bands?.length && (
        <span className={item}>
          <svg width="20" height="12" aria-hidden>
            <rect y="4" width="10" height="4" fill="var(--moss)" />
            <rect x="10" y="4" width="10" height="6.5" fill="var(--moss)" opacity="0.55" />
          </svg>
          thin and thick layers
        </span>
      )}
      {stale && <span className="text-persimmon">stale</span>}
      <span className="ml-auto text-ink" data-testid="cut-readout">
        {at == null
          ? `${count(layersOf(data))} layers, ${mm(data.layers * data.layer_height_mm, 1)}, ${clock(data.time_s)}`
          : `${hereOf(data, at)}   ${mm(z)}   ${clock(when)} after start`}
      </span>
      {at != null && (
        <button
          type="button"
          className="text-indigo underline underline-offset-2"
          onClick={() => onLayer(null)}
        >
          whole
        </button>
      )}
    </div>
  );
}

interface Part {
  data: StripData;
  drawn: Drawn;
  width: number;
  compact?: boolean;
}

function Ribbon({ data, drawn, width, compact }: Part) {
  const { x, size } = drawn;
  const patch = (from: number, until: number) => ({
    x: x(from),
    width: Math.max(7, x(Math.min(until, data.layers)) - x(from)),
  });
  const [lift, gap, tall] = compact ? [14, 5, 13] : [24, 9, 21];
  return (
    <>
      <path d={drawn.outline} fill="var(--section)" stroke="var(--clay)" strokeWidth="1" />
      <line x1="0" x2={width} y1={size.mid} y2={size.mid} stroke="var(--clay)" strokeWidth="0.5" />
      {drawn.hang.map((h) => (
        <rect
          key={h.x}
          x={h.x - 1}
          width="2.6"
          y={size.mid - h.half}
          height={Math.max(3, h.half * 2)}
          fill="url(#p-rain)"
          opacity="0.55"
        />
      ))}
      {data.has_pull && (
        <path d={drawn.sealed} fill="url(#p-waves)" stroke="var(--water)" strokeWidth="0.8">
          <title>sealed space, drawn by its area</title>
        </path>
      )}
      {data.islands.map((s, i) => (
        <rect
          key={`${s.layer} ${s.x_mm} ${s.y_mm}`}
          {...patch(s.layer, s.until)}
          y={size.mid - lift + (i % 4) * gap}
          height={tall}
          fill="url(#p-scales)"
          stroke="var(--persimmon)"
          strokeWidth="0.8"
        >
          <title>{`starts in mid air at ${mm(s.layer * data.layer_height_mm)}`}</title>
        </rect>
      ))}
      {drawn.tips.map((t) => (
        <line
          key={t}
          x1={t}
          x2={t}
          y1={size.mid + size.half + 3}
          y2={size.mid + size.half + 10}
          stroke="var(--indigo)"
          strokeWidth="1.5"
        />
      ))}
      <Bands data={data} drawn={drawn} width={width} />
      {drawn.pull && <path d={drawn.pull} fill="none" stroke="var(--indigo)" strokeWidth="1.4" />}
    </>
  );
}

/** Layers of more than one height: strokes as far apart as they are thick, above the figure. */
function Bands({ data, drawn, width }: Part) {
  const bands = data.bands ?? [];
  if (!bands.length) return null;
  const least = Math.min(...bands.map(([, h]) => h));
  const across = (z: number) => Math.min(width, drawn.x(z / data.layer_height_mm));
  return (
    <g data-testid="bands">
      {bands.map(([top, height], i) => {
        const from = across(i ? bands[i - 1][0] : 0);
        return (
          <rect
            key={top}
            x={from}
            width={Math.max(1, across(top) - from)}
            y="1"
            height={4 * (height / least) ** 0.5}
            fill="var(--moss)"
            opacity={0.25 + (0.75 * least) / height}
          >
            <title>{`layers of ${height} mm up to ${mm(top)}`}</title>
          </rect>
        );
      })}
    </g>
  );
}

function Ruler({ data, drawn, width, compact }: Part) {
  const { x, size } = drawn;
  const { top, every, marks } = rulerOf(data);
  const anchor = (v: number) => (v === 0 ? "start" : top - v < every * 0.25 ? "end" : "middle");
  return (
    <>
      <line x1="0" x2={width} y1={size.axis} y2={size.axis} stroke="var(--thread)" />
      {marks.map((v) => (
        <g key={v} transform={`translate(${x(v / data.layer_height_mm)} ${size.axis})`}>
          <line y2="4" stroke="var(--clay)" />
          <text y={compact ? 13 : 15} textAnchor={anchor(v)} fontSize="11" fill="var(--faded)">
            {compact && v ? v : `${v} mm`}
          </text>
        </g>
      ))}
    </>
  );
}
