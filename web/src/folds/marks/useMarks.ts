import { useEffect, useMemo, useState } from "react";
import type { BufferGeometry } from "three";
import { Problem, type PlanState, type Proposals, type Way } from "../../api/client";
import { useProposals } from "../../api/figure";
import type { Computed } from "../../api/queries";
import { useView } from "../../shell/view";
import { fetchLabels, fetchMesh } from "../../turntable/mesh";
import { surfaceOf, type Ground, type Stroke } from "../../turntable/surface";
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
    };
  }, [geometry, told, bits, own]);
  return { ground, proposals };
}

/** The plan's marks on the preview, for the folds that only show them. */
export function useLabels(
  plan: PlanState,
  sha: string | null | undefined,
  enabled: boolean,
): Uint8Array | null {
  const strokes = strokesOf(plan);
  const { ground } = useGround(plan, enabled && strokes.length ? sha : null, strokes, false);
  const key = JSON.stringify(strokes);
  return useMemo(() => {
    const laid = JSON.parse(key) as Stroke[];
    return ground && laid.length ? ground.surface.replay(laid, ground) : null;
  }, [ground, key]);
}
