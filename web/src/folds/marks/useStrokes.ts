import { useEffect, useRef, useState } from "react";
import type { PlanState } from "../../api/client";
import { codeOf, KINDS, type Kind } from "../../patterns/kinds";
import type { Ground, Stroke } from "../../turntable/surface";
import { foldOf } from "../types";
import { strokesOf } from "./useMarks";

/** Strokes that were not taken yet survive leaving the page. */
const draftOf = (plan: number) => `tenugui-marks-${plan}`;

function drafted(plan: number): Stroke[] | null {
  const kept = localStorage.getItem(draftOf(plan));
  if (!kept) return null;
  try {
    return JSON.parse(kept) as Stroke[];
  } catch {
    // What an older page left there is none of ours.
    localStorage.removeItem(draftOf(plan));
    return null;
  }
}

export const forgetDraft = (plan: number) => localStorage.removeItem(draftOf(plan));

/** The strokes of the hand over those that are settled, with undo of their own. */
export function useStrokes(plan: PlanState) {
  const stored = strokesOf(plan);
  const [strokes, setStrokes] = useState<Stroke[]>(() => drafted(plan.id) ?? stored);
  const [undone, setUndone] = useState<Stroke[]>([]);
  const storedBare = !!foldOf(plan, "marks").choice?.bare;
  const [bare, setBare] = useState(storedBare);
  const storedFaceless = !!foldOf(plan, "marks").choice?.faceless;
  const [faceless, setFaceless] = useState(storedFaceless);
  const laid = JSON.stringify(strokes);
  const dirty =
    laid !== JSON.stringify(stored) || bare !== storedBare || faceless !== storedFaceless;
  useEffect(() => {
    if (dirty) localStorage.setItem(draftOf(plan.id), laid);
    else forgetDraft(plan.id);
  }, [laid, dirty, plan.id]);
  return {
    strokes,
    undone,
    dirty,
    bare,
    setBare,
    faceless,
    setFaceless,
    add: (stroke: Stroke) => {
      setUndone([]);
      setStrokes((s) => [...s, stroke]);
    },
    back: () => {
      const last = strokes.at(-1);
      if (!last) return;
      setUndone((u) => [...u, last]);
      setStrokes((s) => s.slice(0, -1));
    },
    forth: () => {
      const last = undone.at(-1);
      if (!last) return;
      setUndone((u) => u.slice(0, -1));
      setStrokes((s) => [...s, last]);
    },
  };
}

export interface Painted {
  labels: Uint8Array;
  version: number;
  /** Printed area of each kind, mm², and of the whole, at a factor. */
  mm2: (kind: Kind, factor: number) => number;
  whole: (factor: number) => number;
}

/**
 * Labels of the faces for these strokes. Painting writes into them as it goes (`painted` says so);
 * whatever else changes the strokes has them done again.
 */
export function usePainted(ground: Ground | null, strokes: Stroke[]) {
  const [held, setHeld] = useState<Painted | null>(null);
  const byHand = useRef(false);
  const lies = useRef<{ ground: Ground; labels: Uint8Array } | null>(null);
  const version = useRef(0);
  useEffect(() => {
    if (!ground) return;
    const painted = byHand.current && lies.current?.ground === ground;
    byHand.current = false;
    const labels =
      painted && lies.current ? lies.current.labels : ground.surface.replay(strokes, ground);
    lies.current = { ground, labels };
    const sums = new Float64Array(KINDS.length + 1);
    labels.forEach((c, f) => (sums[c] += ground.surface.areas[f]));
    const all = sums.reduce((a, b) => a + b, 0);
    version.current += 1;
    setHeld({
      labels,
      version: version.current,
      mm2: (kind, k) => sums[codeOf(kind)] * k * k,
      whole: (k) => all * k * k,
    });
  }, [ground, strokes]);
  return { painted: held, byHand: () => (byHand.current = true) };
}
