import { Quaternion, Vector3 } from "three";
import { describe, expect, it } from "vitest";
import type { Down } from "../src/api/client";
import { crest, downOf, nearest, onPlate, ranks, turnTo } from "../src/folds/pose/globe";
import { poseName } from "../src/folds/pose/words";

const R = 85;

describe("the crest", () => {
  it("has the figure's feet in its middle, and its head in the other's", () => {
    expect(crest(1, R).place([0, 0, -1])).toEqual([R, R]);
    expect(crest(-1, R).place([0, 0, 1])).toEqual([R, R]);
  });

  it("has lying on its rim", () => {
    const [x, y] = crest(1, R).place([1, 0, 0]);
    expect(Math.hypot(x - R, y - R)).toBeCloseTo(R, 5);
  });

  it("gives back the direction of a place", () => {
    for (const side of [1, -1] as const) {
      const c = crest(side, R);
      for (const [px, py] of [
        [40, 60],
        [120, 90],
        [85, 20],
      ]) {
        const d = c.direction(px, py);
        expect(d).not.toBeNull();
        if (!d) continue;
        expect(Math.hypot(...d)).toBeCloseTo(1, 9);
        expect(c.holds(d)).toBe(true);
        const [x, y] = c.place(d);
        expect(x).toBeCloseTo(px, 6);
        expect(y).toBeCloseTo(py, 6);
      }
    }
    expect(crest(1, R).direction(0, 0)).toBeNull();
  });

  it("has equal areas: half of a half within 1/sqrt 2 of the rim", () => {
    // A cap of a hemisphere's half area reaches down to 60 degrees.
    const [x] = crest(1, R).place([Math.sin(Math.PI / 3), 0, -Math.cos(Math.PI / 3)]);
    expect(Math.abs(x - R)).toBeCloseTo(R / Math.SQRT2, 4);
  });
});

describe("turns", () => {
  it("a direction taken down points down", () => {
    const d: Down = [0.6, -0.48, 0.64];
    downOf(turnTo(d)).forEach((v, i) => expect(v).toBeCloseTo(d[i], 9));
  });

  it("a turned figure stands on the plate, in the middle", () => {
    const hull = [
      [0, 0, 0],
      [4, 0, 0],
      [0, 2, 0],
      [0, 0, 10],
    ];
    const m = onPlate(turnTo([1, 0, 0]), 2, hull);
    const at = hull.map((h) => {
      const [x, y, z] = h;
      return [0, 1, 2].map((r) => m[r] * x + m[4 + r] * y + m[8 + r] * z + m[12 + r]);
    });
    const span = (axis: number) => {
      const all = at.map((p) => p[axis]);
      return [Math.min(...all), Math.max(...all)];
    };
    expect(span(2)[0]).toBeCloseTo(0, 9);
    expect(span(2)[1]).toBeCloseTo(8, 9);
    expect(span(0)[0]).toBeCloseTo(-span(0)[1], 9);
    expect(span(1)[0]).toBeCloseTo(-span(1)[1], 9);
  });

  it("a lean is told from the side the top goes to", () => {
    const leaning = (axis: Vector3, degrees: number) =>
      poseName(downOf(new Quaternion().setFromAxisAngle(axis, (degrees * Math.PI) / 180)));
    // Figures face -y: turned about x by a positive angle, the top goes to -y.
    expect(leaning(new Vector3(1, 0, 0), 30)).toBe("Leaning forward 30°");
    expect(leaning(new Vector3(1, 0, 0), -30)).toBe("Leaning back 30°");
    expect(leaning(new Vector3(1, 0, 0), -90)).toBe("Lying on its back");
    expect(leaning(new Vector3(1, 0, 0), 2)).toBe("Upright");
    expect(leaning(new Vector3(1, 0, 0), 180)).toBe("Upside down");
  });
});

describe("ranks", () => {
  it("go from the best to the worst", () => {
    expect([...ranks([3, 1, 2], "small")]).toEqual([1, 0, 0.5]);
    expect([...ranks([3, 1, 2], "large")]).toEqual([0, 1, 0.5]);
  });

  it("are the same for the same", () => {
    expect([...ranks([5, 5, 5], "small")]).toEqual([0, 0, 0]);
  });
});

it("the nearest direction is the nearest", () => {
  const downs = Float32Array.from([1, 0, 0, 0, 1, 0, 0, 0, -1]);
  expect(nearest(downs, [0.1, 0.2, -0.9])).toBe(2);
  expect(nearest(downs, [0.1, 0.9, -0.2])).toBe(1);
});
