import { useEffect, useMemo, useState } from "react";
import type { BufferGeometry } from "three";
import { api, need, Problem, type PlanState } from "../../api/client";
import { useView } from "../../shell/view";
import type { Proposals } from "../../api/documents";
import { useComputation, type Computed } from "../../api/queries";
import { fetchLabels, fetchMesh } from "../../turntable/mesh";
import { surfaceOf, type Plane, type Stroke, type Surface } from "../../turntable/surface";

export interface Ground { surface: Surface; saying: Record<string, (f: number) => boolean>; plane: Plane | null; own: Uint8Array | null }

export const strokesOf = (plan: PlanState): Stroke[] => (plan.folds.find((f) => f.name === "marks")?.choice as { strokes?: Stroke[] } | null)?.strokes ?? [];

/** What strokes stand on: the preview's surface, what the figure proposes, its mirror, and what its file marked. */
export function useGround(plan: PlanState, sha: string | null | undefined, strokes: Stroke[], always: boolean): { ground: Ground | null; proposals: Computed<Proposals> } {
  const way = ((plan.folds[0].choice as { mesh?: string } | null)?.mesh ?? "original") as string;
  const file = strokes.find((s) => s.tool === "file")?.what;
  const asked = always || strokes.some((s) => s.tool === "propose" || s.tool === "file" || s.mirror);
  const proposals = useComputation<Proposals>(["proposals", plan.figure_id, way, file], () => need(api.GET("/api/figures/{number}/proposals", { params: { path: { number: plan.figure_id }, query: { way, marks: file } } })), asked && !!sha);
  const [geometry, setGeometry] = useState<BufferGeometry | null>(null);
  const [bits, setBits] = useState<Uint8Array | null>(null);
  const [own, setOwn] = useState<Uint8Array | null>(null);
  const told = proposals.document;
  const fail = useView((s) => s.fail);
  const lost = () => fail(new Problem("lost", "The marks could not be fetched.", "Open the fold again; nothing of yours is lost."));
  useEffect(() => {
    let here = true;
    setGeometry(null);
    if (sha) void fetchMesh(sha).then((g) => here && setGeometry(g), () => lost());
    return () => { here = false; };
  }, [sha]);
  useEffect(() => {
    let here = true;
    setBits(null);
    setOwn(null);
    if (told) void fetchLabels(told.labels_sha).then((b) => here && setBits(b), () => lost());
    if (told?.file_sha) void fetchLabels(told.file_sha).then((b) => here && setOwn(b), () => lost());
    return () => { here = false; };
  }, [told?.labels_sha, told?.file_sha]);
  const ground = useMemo(() => {
    if (!geometry) return null;
    const surface = surfaceOf(geometry);
    const saying: Ground["saying"] = {};
    // The proposals belong to one preview; the first sight of a figure is another.
    if (told && bits?.length === surface.faces) told.proposals.forEach((p, i) => { saying[p.name] = (f) => ((bits[f] >> i) & 1) === 1; });
    return { surface, saying, plane: told?.plane ?? null, own: own?.length === surface.faces ? own : null };
  }, [geometry, told, bits, own]);
  return { ground, proposals };
}

/** The plan's marks on the preview, for the folds that only show them. */
export function useLabels(plan: PlanState, sha: string | null | undefined, enabled: boolean): Uint8Array | null {
  const strokes = strokesOf(plan);
  const { ground } = useGround(plan, enabled && strokes.length ? sha : null, strokes, false);
  const key = JSON.stringify(strokes);
  return useMemo(() => (ground && strokes.length ? ground.surface.replay(strokes, ground.saying, ground.plane, ground.own) : null), [ground, key]);
}
