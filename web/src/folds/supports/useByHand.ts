import { useCallback, useState } from "react";
import { Matrix4, Vector3 } from "three";
import type { Place, Schemas, SupportsRow } from "../../api/client";
import type { Item } from "../../stage/scene";

export type Asked = Schemas["SupportsAsk"];
type Edit = Asked["edits"][number];
export type Mode = "off" | "add" | "remove";
/** A tip is taken away where it is pointed at from no farther than this, mm. */
const NEAR_MM = 4;
const RING_MM = 1;

const rounded = (v: Vector3): Place => [+v.x.toFixed(3), +v.y.toFixed(3), +v.z.toFixed(3)];

/** The tip nearest to a place in the build, and how far it is. */
export function nearestSpot(spots: readonly { at: Place }[], p: Vector3): [number, number] {
  const far = spots.map(({ at }) => p.distanceTo(new Vector3(...at)));
  const best = far.indexOf(Math.min(...far));
  return [best, far[best] ?? Infinity];
}

/** Changes by hand on the row that is shown: what was made so far, and what a click on the figure does. */
export function useByHand(row: SupportsRow | undefined, factor: number) {
  const [mode, setMode] = useState<Mode>("off");
  const [made, setMade] = useState<{ of: SupportsRow; edits: Edit[] } | null>(null);
  const [far, setFar] = useState(false);
  const edits = made && made.of === row ? made.edits : [];
  const onPick = useCallback(
    (p: Vector3) => {
      if (!row) return;
      const toBuild = new Matrix4().fromArray(row.matrix);
      let place = p;
      if (mode === "remove") {
        const [i, away] = nearestSpot(row.spots, p.clone().applyMatrix4(toBuild));
        setFar(away > NEAR_MM);
        if (away > NEAR_MM) return;
        place = new Vector3(...row.spots[i].at).applyMatrix4(toBuild.clone().invert());
      }
      const at = rounded(place.clone().multiplyScalar(factor));
      setMade((m) => ({
        of: row,
        edits: [...(m?.of === row ? m.edits : []), { op: mode === "add" ? "add" : "remove", at }],
      }));
    },
    [row, mode, factor],
  );
  const items: Item[] = [];
  if (row && mode !== "off") {
    const back = new Matrix4().fromArray(row.matrix).invert();
    const ring = (at: Place, chosen: boolean, radius: number) => ({
      at,
      axis: [0, 0, 1] as Place,
      radius: radius / factor,
      chosen,
      through: true,
    });
    const inFile = (e: Edit): Place => [e.at[0] / factor, e.at[1] / factor, e.at[2] / factor];
    const there =
      mode === "remove"
        ? row.spots.map((s) =>
            ring(new Vector3(...s.at).applyMatrix4(back).toArray(), false, RING_MM / 2),
          )
        : [];
    const marks = edits.map((e) => ring(inFile(e), e.op === "remove", RING_MM));
    items.push({ kind: "holes", rows: [...there, ...marks] }, { kind: "picker", onPick });
  }
  return {
    mode,
    setMode: (m: Mode) => {
      setFar(false);
      setMode(m);
    },
    edits,
    far,
    items,
    back: () => row && setMade({ of: row, edits: edits.slice(0, -1) }),
    /** The row with all that hands have changed on it, to be proved. */
    asked: (): Asked | null =>
      row
        ? {
            risk: row.risk,
            style: row.style as Asked["style"],
            edits: [...row.edits, ...edits],
          }
        : null,
  };
}
