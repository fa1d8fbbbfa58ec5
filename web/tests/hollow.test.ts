import { describe, expect, it } from "vitest";
import { creaseLine } from "../src/folds/hollow/Creases";
import { peakLine } from "../src/folds/hollow/Pull";

const crease = { place: [1, 2, 33.4] as [number, number, number], deep_mm: 5.04, taken_mm3: 485.2 };
const peak = {
  layer: 11,
  z_mm: 0.6,
  place: [0, 0, 0.6] as [number, number, number],
  pull_n: 12.34,
  suction_n: 0,
  area_mm2: 617,
  sealed_mm2: 0,
};

describe("what the fold Hollow says of places", () => {
  it("tells of a crease how deep, how high, and what was done", () => {
    expect(creaseLine({ ...crease, hollow: true })).toBe(
      "5.0 mm deeper than the surface around it, 33 mm up: the inside keeps clear of it, 485 mm³ more stay solid",
    );
    expect(creaseLine({ ...crease, hollow: false })).toMatch(/it stays solid there$/);
  });
  it("names a raft, a shelf and a cup apart", () => {
    expect(peakLine({ ...peak, cause: "raft" })).toBe(
      "12 N at 0.6 mm, layer 12: the raft, 617 mm²",
    );
    expect(peakLine({ ...peak, cause: "shelf" })).toMatch(/a flat of 617 mm² begins$/);
    expect(peakLine({ ...peak, cause: "cup", sealed_mm2: 80, suction_n: 4 })).toMatch(
      /a cup of 80 mm² seals and sucks with 4.0 N$/,
    );
  });
});
