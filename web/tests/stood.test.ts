import { Matrix4, Vector3 } from "three";
import { describe, expect, it } from "vitest";
import type { Place } from "../src/api/client";
import { faceOn, framesOf, onItsFeet, stood, turnedOn, turnOf } from "../src/folds/size/stood";

const near = (a: number[], b: number[]) => a.forEach((v, i) => expect(v).toBeCloseTo(b[i], 9));
const HULL = [
  [0, 0, 0],
  [4, 0, 0],
  [0, 10, 0],
  [0, 0, 2],
];

describe("a figure as it stands", () => {
  it("is not turned where z is up and it faces -y", () => {
    near(turnOf([0, 0, 1], [0, -1, 0]).toArray(), new Matrix4().toArray());
  });

  it("stands with its up at z and its face at -y, and is not mirrored", () => {
    for (const [up, front] of [
      [
        [0, 1, 0],
        [0, 0, 1],
      ],
      [
        [1, 0, 0],
        [0, 0, -1],
      ],
      [
        [0, 0.6, 0.8],
        [1, 0, 0],
      ],
    ] as [Place, Place][]) {
      const turn = turnOf(up, front);
      near(new Vector3(...up).applyMatrix4(turn).toArray(), [0, 0, 1]);
      near(new Vector3(...front).applyMatrix4(turn).toArray(), [0, -1, 0]);
      expect(turn.determinant()).toBeCloseTo(1, 9);
    }
  });

  it("has a turn even where its front is its up", () => {
    expect(turnOf([0, 0, 1], [0, 0, 1]).determinant()).toBeCloseTo(1, 9);
    expect(turnOf([0.5, 0.5, Math.SQRT1_2], [0.5, 0.5, Math.SQRT1_2]).determinant()).toBeCloseTo(
      1,
      9,
    );
  });

  it("is as tall as it is along its up", () => {
    const turn = turnOf([0, 1, 0], [0, 0, 1]);
    const measured = stood(HULL, turn);
    near(measured.size_mm, [4, 2, 10]);
    expect(stood(HULL, turn, 10.5).size_mm[2]).toBe(10.5);
    const m = new Matrix4().fromArray(onItsFeet(turn, 3, measured));
    const at = HULL.map((h) => new Vector3(...(h as Place)).applyMatrix4(m));
    expect(Math.min(...at.map((p) => p.z))).toBeCloseTo(0, 9);
    expect(Math.max(...at.map((p) => p.z))).toBeCloseTo(30, 9);
    expect(Math.min(...at.map((p) => p.x)) + Math.max(...at.map((p) => p.x))).toBeCloseTo(0, 9);
  });

  it("faces all four ways in four quarter turns", () => {
    let front: Place = [0, -1, 0];
    const seen = [0, 1, 2, 3].map(() => (front = faceOn([0, 0, 1], front)));
    expect(seen).toEqual([
      [1, 0, 0],
      [0, 1, 0],
      [-1, 0, 0],
      [0, -1, 0],
    ]);
  });

  it("tells directions in its own frame and back", () => {
    const f = framesOf({ up: [0, 1, 0], front: [0, 0, 1] } as never);
    near(f.own([0, -1, 0]), [0, 0, -1]);
    near(f.file(f.own([0.6, 0, 0.8])), [0.6, 0, 0.8]);
    near(framesOf(null).own([0.6, 0, 0.8]), [0.6, 0, 0.8]);
  });
});

describe("a figure turned by hand", () => {
  it("is tilted about the table's axes, not its file's", () => {
    const lying = turnedOn([0, 0, 1], [0, -1, 0], new Vector3(1, 0, 0), Math.PI / 2);
    near(lying.up, [0, 1, 0]);
    near(lying.front, [0, 0, 1]);
  });

  it("turns around its up without losing it, and back again", () => {
    const up: Place = [0, 0.6, 0.8];
    const front: Place = [1, 0, 0];
    const around = turnedOn(up, front, new Vector3(0, 0, 1), 0.7);
    near(around.up, up);
    const back = turnedOn(around.up, around.front, new Vector3(0, 0, 1), -0.7);
    near(back.front, front);
  });
});
