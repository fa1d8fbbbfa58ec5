import { describe, expect, it } from "vitest";
import type { Liquid } from "../src/api/client";
import { levelAt } from "../src/folds/hollow/Liquid";

const run = (seconds: number[], level_mm: number[]) => ({ seconds, level_mm }) as unknown as Liquid;

describe("the level as it falls", () => {
  it("stands where it is told at each moment and between two of them in between", () => {
    const data = run([0, 10, 40], [30, 20, 5]);
    expect([0, 5, 10, 25, 40].map((t) => levelAt(data, t))).toEqual([30, 25, 20, 12.5, 5]);
  });

  it("stays at its last stand, and where nothing runs at its first", () => {
    expect(levelAt(run([0, 10], [8, 2]), 99)).toBe(2);
    expect(levelAt(run([0], [8]), 0)).toBe(8);
  });
});
