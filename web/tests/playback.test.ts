import { wishesOf } from "../src/folds/supports/wishes";
import { expect, it } from "vitest";
import type { LayerPath, Profile } from "../src/api/client";
import { stepsOf } from "../src/folds/layers/Profiles";
import { boxOf, clockOf, movesBy } from "../src/folds/proof/draw";
import { chanceOf, riskAt, stopOf } from "../src/folds/supports/RiskDial";
import { placesOf, withMore } from "../src/folds/supports/put";

const path: LayerPath = {
  layer: 2,
  layers: 9,
  z_mm: 0.4,
  points: [
    [-50, -50],
    [0, 0],
    [4, 0],
    [4, 3],
  ],
  kind: [0, 1, 5],
  seconds: [0.5, 2, 1.5],
  begins: [1],
  strings: [0],
  kinds: ["travel", "outermost line", "line within", "", "", "support", ""],
};

it("counts the seconds of moves, and the moves of seconds", () => {
  const clock = clockOf(path);
  expect(clock).toEqual([0.5, 2.5, 4]);
  expect([0, 0.5, 2.4, 2.5, 99].map((s) => movesBy(clock, s))).toEqual([0, 1, 1, 2, 3]);
});

it("frames what is drawn and not where the nozzle came from", () => {
  expect(boxOf([path])).toEqual([0, 0, 4, 3]);
});

it("reads places from an address and leaves out what is none", () => {
  expect(placesOf("1,2,3;4.5,5,6")).toEqual([
    [1, 2, 3],
    [4.5, 5, 6],
  ]);
  expect(placesOf("1,2;x,y,z;;")).toEqual([]);
  expect(placesOf(null)).toEqual([]);
});

it("adds tips to the set that was taken, with its own changes", () => {
  const own = {
    risk: 0.2,
    style: "trees" as const,
    edits: [{ op: "remove" as const, at: [0, 0, 1] as [number, number, number] }],
  };
  const more = withMore(own, { risk: 0.01, style: "pillars" }, "1,2,3");
  expect(more?.risk).toBe(0.2);
  expect(more?.edits?.map((e) => e.op)).toEqual(["remove", "add"]);
  expect(withMore(null, { risk: 0.01, style: "trees" }, "1,2,3")).toMatchObject({
    risk: 0.01,
    style: "trees",
  });
  expect(withMore(own, null, "")).toBeNull();
});

it("says a tip that is only taken away by its place alone, and everything else in full", () => {
  const at: [number, number, number] = [0, 0, 1];
  const own = {
    risk: 0.2,
    style: "trees" as const,
    edits: [
      { op: "remove" as const, at },
      { op: "add" as const, at },
    ],
  };
  expect(JSON.parse(wishesOf(own))).toEqual({ own: { ...own, edits: [at, own.edits[1]] } });
  expect(JSON.parse(wishesOf(null))).toEqual({ own: null });
});

it("says what steps are, and where there are none", () => {
  const stair = (cusp_mm: number, run_mm: number | null): Profile["stairs"][number] => ({
    layer_height_mm: 0.1,
    rows: [],
    cusp_mm,
    run_mm,
  });
  expect(stepsOf(stair(0.05, 0.06))).toContain("50");
  expect(stepsOf(stair(0.09, 0.4))).toContain("0.40 mm wide");
  expect(stepsOf(stair(0, 0))).toContain("upright");
  expect(stepsOf(stair(0.1, null))).toContain("level");
});

it("has stops of one factor each, and finds the stop of a risk", () => {
  expect([riskAt(0), riskAt(48)]).toEqual([0.005, 0.3]);
  const risks = Array.from({ length: 49 }, (_, i) => riskAt(i));
  expect(risks).toEqual([...risks].sort((a, b) => a - b));
  expect(risks.map(stopOf)).toEqual(risks.map((_, i) => i));
  expect(chanceOf(riskAt(stopOf(0.05)))).toContain("one tip in 2");
});
