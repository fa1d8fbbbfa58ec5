import { describe, expect, it } from "vitest";
import { takenFrom } from "../src/folds/supports/Again";
import { gapText } from "../src/folds/supports/ByHand";
import { backSaid, walkOf } from "../src/folds/supports/OneByOne";
import { differs } from "../src/folds/supports/TwoSets";
import { onRegion, regionOf } from "../src/folds/supports/useByHand";

describe("regions of supports", () => {
  it("are those that stand close together", () => {
    const spots = [{ region: 0 }, { region: 1 }, { region: 0 }];
    expect(regionOf(spots, 2)).toEqual([0, 2]);
    expect(regionOf(spots, 9)).toEqual([]);
    expect(onRegion("gap") && !onRegion("clear")).toBe(true);
  });
  it("end so many layers short, in both measures", () => {
    expect(gapText(0, 0.16)).toBe("no gap, it grips");
    expect(gapText(1, 0.16)).toBe("1 layer, 0.16 mm");
    expect(gapText(3, 0.12)).toBe("3 layers, 0.36 mm");
  });
});

describe("backing off", () => {
  const way = { order: [4, 2, 0, 1, 3], free: 3, least: [3.2, 2.9, 2.4, 1.1, 0] };
  it("walks in the order in which tips may go", () => {
    expect(walkOf([], "back", undefined, way)).toEqual(way.order);
    expect(walkOf([], "back")).toEqual([]);
  });
  it("says how many may go, what is left, and where to stop", () => {
    expect(backSaid(way, -1)).toMatch(
      /^3 of 5 may go, what bears least first; .* 2\.4 times its pull/,
    );
    expect(backSaid(way, 0)).toMatch(/^1 of 5 may go.* 3\.2 times/);
    expect(backSaid(way, 3)).toMatch(
      /^From here on something would be held by less.*3 of 5 may go/,
    );
    expect(backSaid({ order: [1], free: 0, least: [0] }, -1)).toMatch(/^None of 1 may go/);
    expect(backSaid({ order: [], free: 0, least: [] }, -1)).toBe("None may go.");
    expect(backSaid({ ...way, least: [null, null, null, null, null] }, -1)).not.toMatch(/times/);
  });
});

describe("sets beside each other", () => {
  it("are told apart in a sentence", () => {
    expect(differs({ only: [0, 0], both: 7 })).toBe("The same 7 supports.");
    expect(differs({ only: [3, 1], both: 7 })).toBe(
      "7 in both; 3 only here and 1 only there, dyed.",
    );
  });
  it("and changes of another plan are named by it", () => {
    const from = { plan_id: 4, figure: "Egg", edits: 1, same: true };
    expect(takenFrom(from)).toBe("Egg, plan 4: 1 change");
    expect(takenFrom({ ...from, edits: 2, same: false })).toBe(
      "Egg, plan 4: 2 changes (another mesh)",
    );
  });
});
