import { Matrix4, Vector3 } from "three";
import type { Down, Place } from "../../api/client";
import type { Measured } from "./Fields";
import type { FoldOf } from "../types";

export const Z_UP: Place = [0, 0, 1];
export const FACING: Place = [0, -1, 0];

/** The turn that stands a figure up: `up` to z, and what it faces to -y. */
export function turnOf(up: Place, front: Place): Matrix4 {
  const u = new Vector3(...up).normalize();
  const ahead = new Vector3(...front).addScaledVector(u, -u.dot(new Vector3(...front)));
  if (ahead.length() < 1e-6)
    ahead.set(u.z, u.x, u.y).addScaledVector(u, -(u.z * u.x + u.x * u.y + u.y * u.z));
  ahead.normalize();
  const back = ahead.clone().negate();
  const side = back.clone().cross(u);
  return new Matrix4().makeBasis(side, back, u).transpose();
}

/**
 * Its extents as it stands, in the file's numbers; `height` where it is known better than by the
 * corners of its hull.
 */
export function stood(hull: number[][], turn: Matrix4, height?: number): Measured {
  const low = new Vector3(Infinity, Infinity, Infinity);
  const high = low.clone().negate();
  const p = new Vector3();
  for (const corner of hull) {
    p.fromArray(corner).applyMatrix4(turn);
    low.min(p);
    high.max(p);
  }
  const size = high.sub(low);
  return { size_mm: [size.x, size.y, height ?? size.z], lower: low.toArray() };
}

/** Column-major 4 x 4 from the file's frame: stood up, at a factor, on its own feet, in the middle. */
export function onItsFeet(turn: Matrix4, k: number, { size_mm, lower }: Measured): number[] {
  const middle = new Vector3(lower[0] + size_mm[0] / 2, lower[1] + size_mm[1] / 2, lower[2]);
  return new Matrix4()
    .makeTranslation(middle.multiplyScalar(-k))
    .multiply(turn.clone().premultiply(new Matrix4().makeScale(k, k, k)))
    .toArray();
}

/** What the figure faces, a quarter turn further around its up. */
export function faceOn(up: Place, front: Place): Place {
  const turned = new Vector3(...up).cross(new Vector3(...front)).normalize();
  return turned.toArray().map((v) => Math.round(v * 1e6) / 1e6 + 0) as Place;
}

/** Up and front after the standing figure was turned about an axis of the table, by an angle in radians. */
export function turnedOn(up: Place, front: Place, axis: Vector3, angle: number) {
  const turn = new Matrix4().makeRotationAxis(axis, angle).multiply(turnOf(up, front));
  const back = turn.transpose();
  const own = (v: Place) => new Vector3(...v).applyMatrix4(back).normalize().toArray();
  return { up: own(Z_UP), front: own(FACING) };
}

export const alike = (a: Place, b: Place) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2] > 0.9999;

/** Directions in the frame of the figure as it stands, and back in its file's. */
export interface Frames {
  own: (d: Down) => Down;
  file: (d: Down) => Down;
}

export function framesOf(size: FoldOf<"size">["choice"]): Frames {
  const turn = turnOf(size?.up ?? Z_UP, size?.front ?? FACING);
  const back = turn.clone().transpose();
  return {
    own: (d) => new Vector3(...d).applyMatrix4(turn).toArray(),
    file: (d) => new Vector3(...d).applyMatrix4(back).toArray(),
  };
}
