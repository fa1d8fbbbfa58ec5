import { useState } from "react";
import { Matrix4, Vector3 } from "three";
import type { Place, Schemas, SupportsRow } from "../../api/client";
import type { Item } from "../../stage/scene";

export type Asked = Schemas["OwnSupports"];
type Ask = Schemas["EditAsk"];
/** `spots`: the numbers of the tips that go; `build`: where one is put, in the build. */
export interface Edit extends Ask {
  spots?: number[];
  build?: Place;
}
export type Mode = "off" | "add" | "remove" | "move" | "foot" | "clear" | OnRegion;
/** What is done to all tips that stand close together. */
export type OnRegion = "leave" | "carry" | "gap" | "density";
export const onRegion = (mode: Mode): mode is OnRegion =>
  mode === "leave" || mode === "carry" || mode === "gap" || mode === "density";
/**
 * A tip is taken away where it is pointed at from no farther than this, mm; and all around a place
 * from no farther than that.
 */
const [NEAR_MM, AROUND_MM] = [4, 5];
const RING_MM = 1;

const rounded = (v: Vector3): Place => [+v.x.toFixed(3), +v.y.toFixed(3), +v.z.toFixed(3)];

type Spots = readonly { at: Place }[];

/** The tip nearest to a place in the build, and how far it is. */
export function nearestSpot(spots: Spots, p: Vector3, not: number[] = []): [number, number] {
  const far = spots.map(({ at }, i) =>
    not.includes(i) ? Infinity : p.distanceTo(new Vector3(...at)),
  );
  const best = far.indexOf(Math.min(...far));
  return [best, far[best] ?? Infinity];
}

/** All tips of the region that one of them belongs to. */
export const regionOf = (spots: readonly { region: number }[], i: number): number[] =>
  spots.flatMap(({ region }, k) => (region === spots[i]?.region ? [k] : []));

/** All tips around a place in the build. */
export const spotsAround = (spots: Spots, p: Vector3): number[] =>
  spots.flatMap(({ at }, i) => (p.distanceTo(new Vector3(...at)) <= AROUND_MM ? [i] : []));

/** As it is asked for, without what only the page knows of it. */
const plainly = ({ op, at, to, raft, gap_layers, density }: Edit): Ask => ({
  op,
  at,
  to,
  raft,
  gap_layers,
  density,
});

/** Changes by hand on the row that is shown: what was made so far, and what a click on the figure does. */
export function useByHand(row: SupportsRow | undefined, factor: number) {
  const [mode, setMode] = useState<Mode>("off");
  const [made, setMade] = useState<{ of: SupportsRow; steps: Edit[][] } | null>(null);
  const [far, setFar] = useState(false);
  const [held, setHeld] = useState<number | null>(null);
  const [gap, setGap] = useState(2);
  const [density, setDensity] = useState(0.4);
  const steps = made && made.of === row ? made.steps : [];
  const edits = steps.flat();
  const gone = edits.flatMap((e) => e.spots ?? []);
  const push = (more: Edit[]) => {
    if (row && more.length)
      setMade((m) => ({ of: row, steps: [...(m?.of === row ? m.steps : []), more] }));
  };
  const removal = (i: number): Edit => {
    const back = new Matrix4().fromArray(row?.matrix ?? new Matrix4().toArray()).invert();
    const at = new Vector3(...(row?.spots[i].at ?? [0, 0, 0])).applyMatrix4(back);
    return { op: "remove", at: rounded(at.multiplyScalar(factor)), spots: [i] };
  };
  const takeAway = (...tips: number[]) => push(tips.filter((i) => !gone.includes(i)).map(removal));
  const regionEdit = (op: OnRegion, i: number): Edit => ({
    op,
    at: removal(i).at,
    ...(op === "gap" ? { gap_layers: gap } : {}),
    ...(op === "density" ? { density } : {}),
    ...(op === "leave" && row ? { spots: regionOf(row.spots, i) } : {}),
  });
  const onPick = (p: Vector3) => {
    if (!row) return;
    const inBuild = p.clone().applyMatrix4(new Matrix4().fromArray(row.matrix));
    const put: Edit = {
      op: "add",
      at: rounded(p.clone().multiplyScalar(factor)),
      build: rounded(inBuild),
    };
    if (mode === "add") return push([put]);
    if (mode === "move" && held != null) {
      setHeld(null);
      return push([removal(held), put]);
    }
    if (mode === "foot" && held != null) {
      setHeld(null);
      const { at } = removal(held);
      return push([{ op: "foot", at, to: put.at }]);
    }
    if (mode === "clear") {
      const around = spotsAround(row.spots, inBuild).filter((i) => !gone.includes(i));
      setFar(!around.length);
      return push(around.map(removal));
    }
    const [i, away] = nearestSpot(row.spots, inBuild, gone);
    setFar(away > NEAR_MM);
    if (away > NEAR_MM) return;
    if (onRegion(mode)) push([regionEdit(mode, i)]);
    else if (mode === "move" || mode === "foot") setHeld(i);
    else push([removal(i)]);
  };
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
      mode === "add"
        ? []
        : row.spots.map((s, i) =>
            ring(
              new Vector3(...s.at).applyMatrix4(back).toArray(),
              i === held,
              (i === held ? 1 : 0.5) * RING_MM,
            ),
          );
    const marks = edits.map((e) => ring(inFile(e), e.op === "remove" || e.op === "leave", RING_MM));
    items.push(
      { kind: "holes", rows: [...there, ...marks] },
      { kind: "picker", onPick, plate: mode === "foot" && held != null },
    );
  }
  return {
    mode,
    setMode: (m: Mode) => {
      setFar(false);
      setHeld(null);
      setMode(m);
    },
    edits,
    gone,
    put: edits.flatMap((e) => (e.build ? [e.build] : [])),
    far,
    held,
    items,
    takeAway,
    gap,
    setGap,
    density,
    setDensity,
    /** Changes that come from elsewhere, as one step that can be taken back. */
    bring: (more: Ask[]) => push(more),
    back: () => row && setMade({ of: row, steps: steps.slice(0, -1) }),
    /** The row with all that hands have changed on it, to be proved. */
    asked: (): Asked | null =>
      row
        ? {
            risk: row.risk,
            style: row.style as Asked["style"],
            edits: [...row.edits, ...edits.map(plainly)],
          }
        : null,
  };
}
