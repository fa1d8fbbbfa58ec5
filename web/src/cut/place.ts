import { Matrix4, Quaternion, Vector3, type Box3 } from "three";
import type { Place, Schemas } from "../api/client";

export type Cut = Schemas["CutAsk"];
export type Proposed = Schemas["ProposedCutDoc"];
export type Parted = Schemas["PartedDoc"];

const UP = new Vector3(0, 0, 1);

/** From a figure's own frame, `factor` times its numbers, to a table on which it stands. */
export function onTable(box: Box3 | null, up: Place, factor: number): Matrix4 {
  const turn = new Matrix4().makeRotationFromQuaternion(
    new Quaternion().setFromUnitVectors(new Vector3(...up).normalize(), UP),
  );
  const stood = turn.scale(new Vector3(factor, factor, factor));
  if (!box) return stood;
  const { min, max } = box.clone().applyMatrix4(stood);
  return new Matrix4()
    .makeTranslation(-(min.x + max.x) / 2, -(min.y + max.y) / 2, -min.z)
    .multiply(stood);
}

/** A cut moved along its own direction by so many mm. */
export function moved(cut: Cut, mm: number): Cut {
  const n = new Vector3(...cut.normal).normalize();
  const p = new Vector3(...cut.point).addScaledVector(n, mm);
  return { ...cut, point: [p.x, p.y, p.z] };
}

/** A cut turned about a direction of the figure by so many degrees. */
export function turned(cut: Cut, about: Place, degrees: number): Cut {
  const n = new Vector3(...cut.normal).applyAxisAngle(
    new Vector3(...about).normalize(),
    (degrees * Math.PI) / 180,
  );
  return { ...cut, normal: [n.x, n.y, n.z] };
}

/** Which of three directions of a figure a cut lies across, by its own up. */
export function across(up: Place): Record<"up" | "side" | "depth", Place> {
  const u = new Vector3(...up).normalize();
  const side = new Vector3(...(Math.abs(u.y) < 0.9 ? [0, 1, 0] : [1, 0, 0])).cross(u).normalize();
  const depth = u.clone().cross(side);
  const of = (v: Vector3): Place => [v.x, v.y, v.z];
  return { up: of(u), side: of(side), depth: of(depth) };
}

/** What a cut comes to, in words. */
export function wordsOf({ seam_mm, minutes, seen, peg, pegless, parts }: Parted): string {
  const [rest, limb] = parts.map((p) => p.volume_mm3);
  const share = ((100 * limb) / (rest + limb)).toFixed(0);
  const where = seen < 0.2 ? "where nobody looks" : seen > 0.5 ? "in plain sight" : "seen a little";
  const sized = peg && `of ${peg.width_mm.toFixed(1)} mm, ${peg.length_mm.toFixed(1)} mm long`;
  const held = peg
    ? `A keyed peg ${sized}, with ${peg.clearance_mm} mm of air around it.`
    : (pegless ?? "No peg.");
  const seam = `the seam is ${seam_mm.toFixed(0)} mm long, ${where}`;
  const work = `${minutes.toFixed(0)} minutes to fit, glue and fill (prior)`;
  return `${share} % of the figure comes off; ${seam}: ${work}. ${held}`;
}
