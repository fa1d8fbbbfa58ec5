import { describe, expect, it } from "vitest";
import type { Liquid, PlanState } from "../src/api/client";
import { levelAt } from "../src/folds/hollow/Liquid";
import { afterPose } from "../src/folds/pose/words";

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

describe("what comes after the pose", () => {
  const plan = (tall: number, hollow: string | null) =>
    ({
      folds: [
        { name: "size", state: "settled", choice: { height_mm: tall } },
        ...(hollow ? [{ name: "hollow", state: hollow, choice: null }] : []),
      ],
    }) as unknown as PlanState;

  it("is hollowing for a large figure on resin that has not been asked", () => {
    expect(afterPose(plan(75, "open"))).toBe("hollow");
    expect(afterPose(plan(32, "open"))).toBe("supports");
    expect(afterPose(plan(75, "settled"))).toBe("supports");
    expect(afterPose(plan(75, null))).toBe("supports");
  });
});
