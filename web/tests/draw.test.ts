import { describe, expect, it } from "vitest";
import type { StripData } from "../src/api/client";
import { draw, LOW, rulerOf, TALL } from "../src/strip/draw";

function strip(change: Partial<StripData> = {}): StripData {
  const flat = (v: number) => Array.from({ length: 10 }, () => v);
  return {
    layer_height_mm: 0.05,
    layers: 100,
    layers_per_column: 10,
    area_mm2: flat(4),
    sealed_mm2: flat(0),
    overhang_mm2: flat(0),
    pull_n: flat(1),
    has_pull: true,
    clock_s: flat(1),
    time_s: 100,
    tip_layers: [],
    islands: [],
    slight_islands: 0,
    sealed: [],
    hazards: [],
    ...change,
  };
}

/** The half widths at each column of an area's path. */
function ends(path: string): number[] {
  return path
    .replace(/[MLZ]/g, " ")
    .trim()
    .split(/\s+/)
    .map((p) => Number(p.split(",")[1]));
}

describe("the ribbon", () => {
  it("is as wide as the root of the section: four times the area, twice the width", () => {
    const area = [4, 16, 4, 4, 4, 4, 4, 4, 4, 4];
    const y = ends(draw(strip({ area_mm2: area }), 500, TALL).outline);
    const half = (i: number) => y[i] - TALL.mid;
    expect(half(1)).toBeCloseTo(TALL.half, 1);
    expect(half(0)).toBeCloseTo(TALL.half / 2, 1);
  });

  it("ends with the figure: the columns lie in their layers' middles", () => {
    const { x } = draw(strip(), 500, LOW);
    expect(x(0)).toBe(0);
    expect(x(100)).toBe(500);
  });

  it("shows the pull where there is one, the strongest highest", () => {
    const pull = [1, 2, 8, 2, 1, 1, 1, 1, 1, 1];
    const drawn = draw(strip({ pull_n: pull }), 500, TALL);
    expect(drawn.strongest).toBe(8);
    const y = ends(drawn.pull ?? "");
    expect(Math.min(...y)).toBe(y[2]);
    expect(TALL.axis - 2 - y[0]).toBeCloseTo(TALL.pull / 8, 1);
    expect(draw(strip({ has_pull: false }), 500, TALL).pull).toBeNull();
  });

  it("has no sealed space where there is none", () => {
    expect(draw(strip(), 500, TALL).sealed).toBe("");
    const one = Array.from({ length: 10 }, (_, i) => (i === 4 || i === 5 ? 4 : 0));
    expect(draw(strip({ sealed_mm2: one }), 500, TALL).sealed).not.toBe("");
  });

  it("rains where something hangs, and only there", () => {
    const hang = Array.from({ length: 10 }, (_, i) => (i === 3 ? 1 : 0.01));
    const drawn = draw(strip({ overhang_mm2: hang }), 500, TALL).hang;
    expect(drawn.map((h) => h.x)).toEqual([175]);
  });

  it("marks tips that fall on one pixel once", () => {
    expect(draw(strip({ tip_layers: [20, 20, 20, 90] }), 500, TALL).tips).toHaveLength(2);
  });
});

describe("the ruler", () => {
  it.each([
    [100, 0.05, 0.5],
    [1200, 0.05, 5],
    [4000, 0.05, 20],
  ])("%d layers of %d mm: a mark every %d mm", (layers, height, every) => {
    const ruler = rulerOf(strip({ layers, layer_height_mm: height }));
    expect(ruler.every).toBe(every);
    expect(ruler.marks.length).toBeLessThanOrEqual(13);
    expect(ruler.marks[0]).toBe(0);
    expect(ruler.marks.at(-1)).toBeLessThanOrEqual(ruler.top + 1e-9);
  });
});
