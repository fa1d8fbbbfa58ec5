import { describe, expect, it } from "vitest";
import type { LayersBoard } from "../src/api/client";
import { bandedOf, heightsOf, visibleOf } from "../src/folds/layers/Banded";
import { saidOfBlemishes } from "../src/folds/proof/Blemishes";

const plain = (h: number) => ({ height: { layer_height_mm: h }, bands: null });
const banded = (limit: number) => ({
  height: { layer_height_mm: 0.08 },
  bands: {
    limit_mm: limit,
    runs: [
      [0.08, 10],
      [0.2, 4],
      [0.12, 3],
    ],
  },
});
const board = (recommended: number) =>
  ({
    choices: [plain(0.08), plain(0.2), banded(0.03), banded(0.08), banded(0.15)],
    recommended,
  }) as unknown as LayersBoard;

describe("layers in bands", () => {
  it("are one row of the board: the one looked at, else the recommended one, else the middle", () => {
    expect(bandedOf(board(0))).toEqual([2, 3, 4]);
    expect(visibleOf(board(0), 4)).toEqual([0, 1, 4]);
    expect(visibleOf(board(2), 1)).toEqual([0, 1, 2]);
    expect(visibleOf(board(0), 1)).toEqual([0, 1, 3]);
    const none = { ...board(0), choices: board(0).choices.slice(0, 2) };
    expect(visibleOf(none, 0)).toEqual([0, 1]);
  });

  it("are told from the thinnest to the thickest", () => {
    expect(heightsOf(board(0).choices[3])).toBe("0.08 to 0.2 mm");
    expect(heightsOf(board(0).choices[1])).toBe("0.2 mm");
  });
});

describe("what a path shows", () => {
  it("is counted in a sentence", () => {
    const found = {
      strings: 1200,
      air_mm: 3400,
      strings_seen: 7,
      starts: 500,
      starts_seen: 20,
      slowed: 0,
      spots: [],
    };
    const said = saidOfBlemishes(found);
    expect(said).toContain("1,200 travels cross 3.4 m of open air");
    expect(said).toContain("20 of 500 outermost lines begin where it is seen; no layer is slowed");
    expect(saidOfBlemishes({ ...found, slowed: 39 })).toContain("39 layers are so short");
  });
});
