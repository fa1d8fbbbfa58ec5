import { geoAzimuthalEqualArea } from "d3-geo";
import { Matrix4, Quaternion, Vector3 } from "three";
import type { Down } from "../../api/client";

/**
 * Half of all directions as a round crest of equal areas: in its middle the figure on its feet
 * (`side` 1) or on its head (-1), on the rim lying.
 */
export function crest(side: 1 | -1, radius: number) {
  const project = geoAzimuthalEqualArea()
    .scale(radius / Math.SQRT2)
    .translate([radius, radius]);
  const degrees = 180 / Math.PI;
  return {
    /** Leaning back lies above the middle, to its left on the right, as one faces the figure. */
    place: ([x, y, z]: Down): [number, number] => {
      const [lon, lat] = [Math.atan2(x, -z * side), Math.asin(Math.max(-1, Math.min(1, y)))];
      return project([lon * degrees, lat * degrees]) ?? [radius, radius];
    },
    holds: (d: Down) => -d[2] * side >= -1e-9,
    direction: (px: number, py: number): Down | null => {
      if (Math.hypot(px - radius, py - radius) > radius + 0.5) return null;
      const at = project.invert?.([px, py]);
      if (!at) return null;
      const [lon, lat] = [at[0] / degrees, at[1] / degrees];
      return [Math.cos(lat) * Math.sin(lon), Math.sin(lat), -Math.cos(lat) * Math.cos(lon) * side];
    },
  };
}

/** The weighed direction nearest to one. */
export function nearest(downs: Float32Array, d: Down): number {
  let best = 0;
  let most = -2;
  for (let i = 0; i < downs.length / 3; i++) {
    const dot = downs[3 * i] * d[0] + downs[3 * i + 1] * d[1] + downs[3 * i + 2] * d[2];
    if (dot > most) {
      most = dot;
      best = i;
    }
  }
  return best;
}

/** From the file's frame onto the plate, by a turn of the hand: the figure's hull tells where it touches down. */
export function onPlate(turn: Quaternion, factor: number, hull: number[][]): number[] {
  const p = new Vector3();
  const low = new Vector3(Infinity, Infinity, Infinity);
  const high = low.clone().negate();
  for (const h of hull) {
    p.fromArray(h).applyQuaternion(turn).multiplyScalar(factor);
    low.min(p);
    high.max(p);
  }
  return new Matrix4()
    .compose(
      new Vector3(-(low.x + high.x) / 2, -(low.y + high.y) / 2, -low.z),
      turn,
      new Vector3(factor, factor, factor),
    )
    .toArray();
}

export const turnTo = (d: Down) =>
  new Quaternion().setFromUnitVectors(new Vector3(...d).normalize(), new Vector3(0, 0, -1));
export const downOf = (turn: Quaternion): Down =>
  new Vector3(0, 0, -1).applyQuaternion(turn.clone().invert()).toArray();

export type Better = "small" | "large";

/** Ranks from 0 (best) to 1 of each value among all; equal values share the best of theirs. */
export function ranks(values: number[], better: Better): Float32Array {
  const sorted = Float64Array.from(values).sort();
  const most = Math.max(1, sorted.length - 1);
  const below = (v: number) => {
    let [low, high] = [0, sorted.length];
    while (low < high) {
      const middle = (low + high) >> 1;
      if (sorted[middle] < v) low = middle + 1;
      else high = middle;
    }
    return low;
  };
  return Float32Array.from(values, (v) =>
    better === "small" ? below(v) / most : 1 - below(v) / most,
  );
}
