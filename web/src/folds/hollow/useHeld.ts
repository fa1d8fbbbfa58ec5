import { useEffect, useMemo, useState } from "react";
import { Quaternion } from "three";
import type { Intake, Place, PlanState } from "../../api/client";
import type { Turn } from "../../stage/scene";
import { downOf, onPlate, turnTo } from "../pose/globe";
import { foldOf } from "../types";

export const WAYS = [
  { value: "best", text: "as it drips best" },
  { value: "plate", text: "as it is printed" },
  { value: "head", text: "upside down" },
  { value: "hand", text: "as I hold it" },
] as const;
export type Way = (typeof WAYS)[number]["value"];
const REST_MS = 150;
const MOST = 7;

/** A value once the hand rests. */
function useRested<T>(value: T): T {
  const [rested, setRested] = useState(value);
  const text = JSON.stringify(value);
  useEffect(() => {
    const soon = setTimeout(() => setRested(JSON.parse(text) as T), REST_MS);
    return () => clearTimeout(soon);
  }, [text]);
  return rested;
}

const rounded = (d: Place): Place => [+d[0].toFixed(4), +d[1].toFixed(4), +d[2].toFixed(4)];

/** How a hollow figure is held while it drips: one position, or several one after the other. */
export function useHeld(plan: PlanState, intake: Intake | null) {
  const [way, setWay] = useState<Way>("best");
  const [before, setBefore] = useState<{ way: Way; down: Place }[]>([]);
  const [turn, setTurn] = useState<Quaternion | null>(null);
  const size = foldOf(plan, "size").choice;
  const up = size?.up ?? [0, 0, 1];
  const pose = foldOf(plan, "pose").choice?.down;
  const plate: Place = pose ?? [-up[0], -up[1], -up[2]];
  const downs: Record<Way, Place | null> = {
    best: null,
    plate,
    head: [-plate[0], -plate[1], -plate[2]],
    hand: turn && downOf(turn),
  };
  const now = downs[way] && rounded(downs[way]);
  const turns = useRested(now ? [...before.map((b) => b.down), now] : []);
  const hull = intake?.hull;
  const factor = size?.factor ?? 1;
  const matrix = useMemo(
    () => (way === "hand" && turn && hull ? onPlate(turn, factor, hull) : null),
    [way, turn, hull, factor],
  );
  const onTurn: Turn = useMemo(
    () => (axis, angle) =>
      setTurn((t) => t && new Quaternion().setFromAxisAngle(axis, angle).multiply(t)),
    [],
  );
  return {
    way,
    before,
    turns,
    matrix,
    onTurn: way === "hand" ? onTurn : null,
    hold: (next: Way) => {
      if (next === "hand") setTurn((t) => t ?? turnTo(now ?? plate));
      if (next === "best") setBefore([]);
      setWay(next);
    },
    /** What was held so far is what the next position begins with. */
    then: () => now && setBefore((b) => [...b, { way, down: now }].slice(-MOST)),
    again: () => setBefore([]),
  };
}
