import { useEffect, useMemo, useState } from "react";
import type { BufferGeometry } from "three";
import { Problem, type PlanState, type Proposals, type Way } from "../../api/client";
import { useProposals } from "../../api/figure";
import type { Computed } from "../../api/queries";
import { useView } from "../../shell/view";
import { fetchLabels, fetchMesh } from "../../turntable/mesh";
import { codeOf, type Kind } from "../../patterns/kinds";
import type { Marks } from "../../stage/scene";
import { SOFTLY, surfaceOf, type Ground, type Stroke } from "../../turntable/surface";
import { foldOf } from "../types";

export const strokesOf = (plan: PlanState): Stroke[] => foldOf(plan, "marks").choice?.strokes ?? [];

const LOST = new Problem(
  "lost",
  "The marks could not be fetched.",
  "Open the fold again; nothing of yours is lost.",
);

/** Something fetched by the name it is kept under; null until it is there, and null again for another name. */
function useFetched<T>(
  name: string | null | undefined,
  fetch: (name: string) => Promise<T>,
): T | null {
  const [held, setHeld] = useState<{ name: string; what: T } | null>(null);
  const fail = useView((s) => s.fail);
  useEffect(() => {
    if (!name) return;
    let here = true;
    fetch(name).then(
      (what) => here && setHeld({ name, what }),
      () => here && fail(LOST),
    );
    return () => {
      here = false;
    };
  }, [name, fetch, fail]);
  return held && held.name === name ? held.what : null;
}

/** What strokes stand on: the preview's surface, what the figure proposes, its mirror, and what its file marked. */
export function useGround(
  plan: PlanState,
  sha: string | null | undefined,
  strokes: Stroke[],
  always: boolean,
): { ground: Ground | null; proposals: Computed<Proposals> } {
  const way = (foldOf(plan, "size").choice?.mesh ?? "ready") as Way;
  const file = strokes.find((s) => s.tool === "file")?.what ?? undefined;
  const asked =
    always || strokes.some((s) => s.tool === "propose" || s.tool === "file" || s.mirror);
  const proposals = useProposals(plan.figure_id, way, file, asked && !!sha);
  const told = proposals.document;
  const geometry: BufferGeometry | null = useFetched(sha, fetchMesh);
  const bits = useFetched(told?.labels_sha, fetchLabels);
  const own = useFetched(told?.file_sha, fetchLabels);
  const ground = useMemo<Ground | null>(() => {
    if (!geometry) return null;
    const surface = surfaceOf(geometry);
    // The proposals belong to one preview; the first sight of a figure is another.
    const theirs = told && bits?.length === surface.faces ? told.proposals : [];
    const says = (i: number) => (f: number) => (((bits?.[f] ?? 0) >> i) & 1) === 1;
    return {
      surface,
      saying: Object.fromEntries(theirs.map((p, i) => [p.name, says(i)])),
      plane: told?.plane ?? null,
      own: own?.length === surface.faces ? own : null,
      soft: theirs.length && bits ? softOf(theirs, bits) : null,
    };
  }, [geometry, told, bits, own]);
  return { ground, proposals };
}

/**
 * What the figure says softly of each face; where two proposals meet, cuts come first, then what is
 * seen (core/plan/inputs.py).
 */
function softOf(proposals: Proposals["proposals"], bits: Uint8Array): Uint8Array {
  const order = ["cuts", "faces", "seen", "unseen"].map((name) =>
    proposals.findIndex((p) => p.name === name && p.soft),
  );
  const codes = proposals.map((p) => SOFTLY + codeOf(p.kind as Kind));
  return Uint8Array.from(bits, (held) => {
    const first = order.find((i) => i >= 0 && (held >> i) & 1);
    return first == null ? 0 : codes[first];
  });
}

/** The plan's marks on the preview, for the folds that only show them. */
export function useLabels(
  plan: PlanState,
  sha: string | null | undefined,
  enabled: boolean,
): Marks | null {
  const strokes = strokesOf(plan);
  const bare = !!foldOf(plan, "marks").choice?.bare;
  const { ground } = useGround(plan, enabled ? sha : null, strokes, !bare);
  const key = JSON.stringify(strokes);
  return useMemo(() => {
    if (!ground) return null;
    const labels = ground.surface.replay(JSON.parse(key) as Stroke[], ground);
    const soft = bare ? null : ground.soft;
    return soft || labels.some(Boolean) ? { labels, soft, version: 0 } : null;
  }, [ground, key, bare]);
}
