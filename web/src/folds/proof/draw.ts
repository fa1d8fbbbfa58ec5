import type { LayerPath } from "../../api/client";

/**
 * How each kind of line is drawn, by its number: ink for what is seen, thread for what is within,
 * persimmon for what comes off.
 */
const PENS: { colour: string; wide: number; dash: number[] }[] = [
  { colour: "--faded", wide: 0.7, dash: [1, 4] },
  { colour: "--ink", wide: 1.5, dash: [] },
  { colour: "--indigo", wide: 0.9, dash: [] },
  { colour: "--indigo", wide: 0.6, dash: [3, 1.5] },
  { colour: "--faded", wide: 0.6, dash: [6, 3] },
  { colour: "--persimmon", wide: 0.9, dash: [] },
  { colour: "--persimmon", wide: 0.6, dash: [2, 1.5] },
  { colour: "--persimmon", wide: 1.2, dash: [] },
  { colour: "--water", wide: 0.5, dash: [] },
  { colour: "--persimmon", wide: 0.8, dash: [8, 2] },
];
const EDGE = 10;
const SEAM = 4;

export interface Look {
  /** Moves that are drawn; the rest waits. */
  upTo: number;
  travels: boolean;
  below: LayerPath | null | undefined;
  /** Where outermost lines begin, and what crosses open air with the filament drawn back. */
  blemishes: boolean;
}

/** The box of what a layer draws, mm. */
export function boxOf(layers: readonly LayerPath[]): [number, number, number, number] {
  const box: [number, number, number, number] = [Infinity, Infinity, -Infinity, -Infinity];
  for (const { points, kind } of layers)
    kind.forEach((k, i) => {
      if (!k) return;
      for (const [x, y] of [points[i], points[i + 1]]) {
        box[0] = Math.min(box[0], x);
        box[1] = Math.min(box[1], y);
        box[2] = Math.max(box[2], x);
        box[3] = Math.max(box[3], y);
      }
    });
  return box;
}

/** Draw a layer's moves as far as they have come; the nozzle is where the last one ends. */
export function drawLayer(canvas: HTMLCanvasElement, path: LayerPath, look: Look) {
  const pen = canvas.getContext("2d");
  if (!pen) return;
  const css = getComputedStyle(canvas);
  const ratio = window.devicePixelRatio || 1;
  const [wide, high] = [canvas.clientWidth, canvas.clientHeight];
  canvas.width = wide * ratio;
  canvas.height = high * ratio;
  pen.scale(ratio, ratio);
  const [x0, y0, x1, y1] = boxOf(look.below ? [path, look.below] : [path]);
  const k = Math.min((wide - 2 * EDGE) / (x1 - x0 || 1), (high - 2 * EDGE) / (y1 - y0 || 1));
  const x = (v: number) => wide / 2 + (v - (x0 + x1) / 2) * k;
  const y = (v: number) => high / 2 - (v - (y0 + y1) / 2) * k;
  const stroke = (of: LayerPath, from: number, to: number, faint: boolean) => {
    for (let i = from; i < to;) {
      const kind = of.kind[i];
      let end = i + 1;
      while (end < to && of.kind[end] === kind) end += 1;
      if (kind || (look.travels && !faint)) {
        const { colour, wide: thick, dash } = PENS[kind] ?? PENS[0];
        pen.beginPath();
        pen.moveTo(x(of.points[i][0]), y(of.points[i][1]));
        for (let j = i; j < end; j += 1) pen.lineTo(x(of.points[j + 1][0]), y(of.points[j + 1][1]));
        pen.strokeStyle = css.getPropertyValue(faint ? "--thread" : colour);
        pen.lineWidth = faint ? 2.5 : thick;
        pen.setLineDash(faint ? [] : dash);
        pen.stroke();
      }
      i = end;
    }
  };
  if (look.below) stroke(look.below, 0, look.below.kind.length, true);
  stroke(path, 0, look.upTo, false);
  if (look.blemishes) {
    pen.setLineDash([]);
    pen.strokeStyle = css.getPropertyValue("--persimmon");
    pen.lineWidth = 2;
    for (const i of path.strings.filter((m) => m < look.upTo)) {
      pen.beginPath();
      pen.moveTo(x(path.points[i][0]), y(path.points[i][1]));
      pen.lineTo(x(path.points[i + 1][0]), y(path.points[i + 1][1]));
      pen.stroke();
    }
    pen.strokeStyle = css.getPropertyValue("--ink");
    for (const i of path.begins.filter((m) => m < look.upTo)) {
      const [sx, sy] = path.points[i];
      pen.strokeRect(x(sx) - SEAM, y(sy) - SEAM, 2 * SEAM, 2 * SEAM);
    }
  }
  const [nx, ny] = path.points[look.upTo];
  pen.beginPath();
  pen.arc(x(nx), y(ny), 4, 0, 2 * Math.PI);
  pen.fillStyle = css.getPropertyValue("--persimmon");
  pen.fill();
}

/** Seconds after each move. */
export function clockOf(path: LayerPath): number[] {
  let sum = 0;
  return path.seconds.map((s) => (sum += s));
}

/** How many moves are done by a time. */
export function movesBy(clock: readonly number[], seconds: number): number {
  let [low, high] = [0, clock.length];
  while (low < high) {
    const mid = (low + high) >> 1;
    if (clock[mid] <= seconds) low = mid + 1;
    else high = mid;
  }
  return low;
}
