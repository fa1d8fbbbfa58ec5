import { describe, expect, it } from "vitest";
import { Vector3 } from "three";
import { spotLine, walkOf } from "../src/folds/supports/OneByOne";
import { nearestSpot, spotsAround } from "../src/folds/supports/useByHand";
import { saidOf, type WhatIf } from "../src/folds/supports/useWhatIf";

const spot = (z: number, margin: number | null) => ({
  at: [0, 0, z] as [number, number, number],
  reason: "load",
  inside: false,
  breaks: false,
  stands_on_figure: false,
  diameter_mm: 0.3,
  hold_n: 0.9,
  margin,
  component: 4,
  area_mm2: 0,
  gap_mm: 0,
  region: 0,
});
const spots = [spot(9, 2.5), spot(3, null), spot(6, 1.2)];

describe("tips one by one", () => {
  it("walks from the plate up, from the weakest, or through comfort alone", () => {
    expect(walkOf(spots, "height")).toEqual([1, 2, 0]);
    expect(walkOf(spots, "weakest")).toEqual([2, 0, 1]);
    expect(walkOf(spots, "comfort", [true, false, false])).toEqual([1, 2]);
    expect(walkOf(spots, "comfort"), "nobody is told so before it is read").toEqual([]);
  });
  it("says what a tip is there for and bears", () => {
    expect(spotLine(spots[0], true)).toBe(
      "Needed, for the pull: 0.30 mm, 9.0 mm up; holds 2.5 times what it is asked for.",
    );
    expect(spotLine({ ...spots[1], stands_on_figure: true }, undefined)).toBe(
      "For the pull: 0.30 mm, 3.0 mm up; stands on the figure.",
    );
  });
  it("finds tips near a place, passing by those that are gone", () => {
    const p = new Vector3(0, 0, 8);
    expect(nearestSpot(spots, p)).toEqual([0, 1]);
    expect(nearestSpot(spots, p, [0])).toEqual([2, 2]);
    expect(spotsAround(spots, p)).toEqual([0, 1, 2]);
    expect(spotsAround(spots, new Vector3(0, 4.9, 9))).toEqual([0]);
  });
});

const body = (after: number, share = 0.2) => ({
  place: [0, 0, 12.34] as [number, number, number],
  pull_n: 1,
  share,
  before: 2.5,
  after,
});
const told = (worse: WhatIf["worse"], vain = 0) =>
  saidOf({ worse, wanted: 2.3, margins: [], vain });

describe("what a change of supports would weaken", () => {
  it("says when nothing gives way, what hangs weaker, and what starts in mid air", () => {
    expect(told([])).toBe("Nothing falls below what is asked.");
    expect(told([body(1.4)])).toBe(
      "20 % of the figure, 12.3 mm up, would be held 1.4 times what pulls, not 2.5; 2.3 is asked.",
    );
    expect(told([body(0, 0.001), body(1)], 1)).toBe(
      "A small part would start in mid air, 12.3 mm up. 2 bodies in all. One place has nothing above to push against.",
    );
  });
});
