import { Box3, Vector3 } from "three";
import { describe, expect, it } from "vitest";
import { across, moved, onTable, turned, wordsOf, type Parted } from "../src/cut/place";
import { jointLine, openLine } from "../src/kit/Joints";
import { countLine, partLine, shownBy, type Part } from "../src/kit/states";

const cut = {
  point: [1, 2, 3] as [number, number, number],
  normal: [0, 0, 2] as [number, number, number],
  peg: true,
};

describe("where a figure is cut", () => {
  it("is moved along its own direction and turned about another", () => {
    expect(moved(cut, 5).point).toEqual([1, 2, 8]);
    const [x, y, z] = turned(cut, [1, 0, 0], 90).normal;
    expect([x, y, z].map((v) => Math.round(v * 1e6) / 1e6 + 0)).toEqual([0, -2, 0]);
    expect(turned(cut, [0, 0, 1], 33).normal).toEqual([0, 0, 2]);
  });
  it("lies across three directions that stand square on each other", () => {
    for (const up of [
      [0, 0, 1],
      [0, 1, 0],
      [1, 0, 0],
    ] as [number, number, number][]) {
      const { up: u, side, depth } = across(up);
      const [a, b, c] = [u, side, depth].map((v) => new Vector3(...v));
      for (const v of [a, b, c]) expect(v.length()).toBeCloseTo(1);
      for (const [p, q] of [
        [a, b],
        [a, c],
        [b, c],
      ])
        expect(p.dot(q)).toBeCloseTo(0);
    }
  });
  it("stands on the table at its size, whichever way its file is up", () => {
    const box = new Box3(new Vector3(0, 5, 0), new Vector3(2, 15, 4));
    const stood = box.clone().applyMatrix4(onTable(box, [0, 1, 0], 3));
    expect(stood.min.z).toBeCloseTo(0);
    expect(stood.max.z).toBeCloseTo(30);
    expect(stood.min.x + stood.max.x).toBeCloseTo(0);
  });
  it("is told in words", () => {
    const part = { volume_mm3: 300, what: "rest", fits: true };
    const parted = {
      parts: [part, { ...part, volume_mm3: 100 }],
      seam_mm: 31.4,
      minutes: 5.2,
      seen: 0.1,
      peg: { width_mm: 4, length_mm: 8, clearance_mm: 0.15 },
      pegless: null,
    } as unknown as Parted;
    expect(wordsOf(parted)).toMatch(
      /^25 % of the figure comes off; the seam is 31 mm long, where nobody looks: 5 minutes/,
    );
    expect(wordsOf(parted)).toMatch(/keyed peg of 4.0 mm, 8.0 mm long, with 0.15 mm of air/);
    expect(wordsOf({ ...parted, peg: null, pegless: "Glue it flat.", seen: 0.7 })).toMatch(
      /in plain sight.*Glue it flat\.$/,
    );
  });
});

describe("a kit", () => {
  const part = (more: Partial<Part>) =>
    ({ whole: 0, wanted: 1, failed: 0, by_hand: "nothing", state: "planned", ...more }) as Part;
  it("counts what is there, what is spare and what failed", () => {
    const parts = [part({ whole: 2 }), part({ failed: 1 }), part({ by_hand: "painted" })];
    expect(countLine(parts)).toBe("2 of 3 parts are there, and 1 spare.");
    expect(countLine(parts.slice(2))).toBe("All of it is there.");
    expect(partLine(parts[0])).toBe("2 of 1, 1 spare");
    expect(partLine(parts[1])).toBe("0 of 1, 1 failed");
    expect(parts.map((p) => shownBy("missing", p))).toEqual([false, true, false]);
    expect(parts.map((p) => shownBy("made", p))).toEqual([true, false, true]);
    expect(parts.every((p) => shownBy("all", p))).toBe(true);
  });
  it("tells its joints and what is not counted", () => {
    const joint = {
      names: ["a", "b"] as [string, string],
      area_mm2: 50,
      seam_mm: 26,
      seen: 0.1,
      minutes: 4,
      peg: null,
      pegless: null,
    };
    expect(jointLine(joint)).toBe("a and b: 50 mm², seam 26 mm, 4 min; no peg");
    const way = { hands_min: 1, machine_h: 1, coins: 1, whole: 0.9, open: 0 };
    expect(openLine([way, way])).toBe("Minutes of joints and chances are priors.");
    expect(openLine([way, { ...way, open: 1 }])).toMatch(
      /^1 of these plans has no supports yet and is not counted/,
    );
  });
});
