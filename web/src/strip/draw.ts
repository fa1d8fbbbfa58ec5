import { scaleLinear, type ScaleLinear } from "d3-scale";
import { area, line } from "d3-shape";
import type { StripData } from "../api/client";

/** Heights in pixels: of all, of the axis, of the ribbon's middle, of its half. */
export interface Size {
  high: number;
  axis: number;
  mid: number;
  half: number;
  pull: number;
}

export const TALL: Size = { high: 150, axis: 132, mid: 56, half: 40, pull: 30 };
/** Two under each other take the room of one. */
export const LOW: Size = { high: 66, axis: 51, mid: 22, half: 19, pull: 14 };

export interface Drawn {
  size: Size;
  x: ScaleLinear<number, number>;
  outline: string;
  sealed: string;
  pull: string | null;
  strongest: number;
  hang: { x: number; half: number }[];
  tips: number[];
}

const LEAST_MM2 = 0.05;
const TIP_PX = 3;

/**
 * A strip's paths for a width. Sealed space lies on the scale of the section: what is a pinhole in
 * the figure is a pinhole here.
 */
export function draw(data: StripData, width: number, size: Size): Drawn {
  const x = scaleLinear([0, data.layers], [0, width]);
  const radius = data.area_mm2.map((a) => Math.sqrt(a / Math.PI));
  const widest = Math.max(...radius, 1e-6);
  const column = (i: number) => x(Math.min(data.layers, (i + 0.5) * data.layers_per_column));
  const half = (r: number) => (r / widest) * size.half;
  const outline = area<number>()
    .x((_, i) => column(i))
    .y0((r) => size.mid - half(r))
    .y1((r) => size.mid + half(r))(radius);
  const sealed = area<number>()
    .defined((a) => a > 0.01)
    .x((_, i) => column(i))
    .y0((a) => size.mid - half(Math.sqrt(a / Math.PI)))
    .y1((a) => size.mid + half(Math.sqrt(a / Math.PI)))(data.sealed_mm2);
  const strongest = Math.max(...data.pull_n, 1e-9);
  const pull = data.has_pull
    ? line<number>()
        .x((_, i) => column(i))
        .y((p) => size.axis - 2 - (p / strongest) * size.pull)(data.pull_n)
    : null;
  const hang = data.overhang_mm2.flatMap((v, i) =>
    v > LEAST_MM2 ? [{ x: column(i), half: half(radius[i]) }] : [],
  );
  const tips = [...new Set(data.tip_layers.map((l) => Math.round(x(l) / TIP_PX)))].map(
    (t) => t * TIP_PX + 1,
  );
  return { size, x, outline: outline ?? "", sealed: sealed ?? "", pull, strongest, hang, tips };
}

/** The ruler's marks in mm: at most a dozen, on plain numbers. */
export function rulerOf(data: StripData) {
  const top = data.layers * data.layer_height_mm;
  const every = [0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 25, 50].find((s) => top / s <= 12) ?? 100;
  const marks = Array.from({ length: Math.floor(top / every + 1e-9) + 1 }, (_, i) =>
    Number((i * every).toFixed(2)),
  );
  return { top, every, marks };
}
