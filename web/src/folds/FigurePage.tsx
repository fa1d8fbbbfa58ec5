import { useEffect, useState } from "react";
import { useHotkeys } from "react-hotkeys-hook";
import { Navigate, useNavigate, useParams, useSearchParams } from "react-router";
import { api, need, type PlanState, type Problem } from "../api/client";
import type { Intake, Numbers, StripData } from "../api/documents";
import { redo, undo, useComputation, usePlan, usePlanChange } from "../api/queries";
import { Crumbs } from "../shell/Header";
import { useView } from "../shell/view";
import type { Vector3 } from "three";
import { Ribbons, type Ribbon } from "../strip/Ribbons";
import { Strip } from "../strip/Strip";
import { Turntable, type Marks, type Pin, type Thick, type Turn } from "../turntable/Turntable";
import { FoldBand, TITLES } from "./FoldBand";
import { LayersFold } from "./LayersFold";
import { LogFold } from "./LogFold";
import { MarksFold } from "./MarksFold";
import { useLabels } from "./marks/useMarks";
import { PoseFold } from "./PoseFold";
import { ProofFold } from "./ProofFold";
import { RunningFigures } from "./RunningFigures";
import { SizeFold } from "./SizeFold";
import { SupportsFold } from "./SupportsFold";

/** What a fold tells the page to show around it. */
export interface Stage { sha?: string | null; overlay?: string | null; thick?: Thick | null; onPick?: ((p: Vector3) => void) | null; ribbons?: { above: Ribbon; below: Ribbon } | null; strip?: StripData | null; matrix?: number[]; supports?: string | null; pin?: Pin | null; marks?: Marks | null; limit?: number; onTurn?: Turn | null; title?: string; second?: { matrix: number[]; title: string } | null; strips?: { above: { title: string; data: StripData }; below: { title: string; data: StripData } } | null; ownUndo?: { back?: () => void; forth?: () => void }; numbers?: Numbers | null; bare?: Numbers | null; stale?: boolean; empty?: string }
export interface FoldProps { plan: PlanState; intake: Intake | null; show: (stage: Stage) => void; layer: number | null; onLayer: (l: number | null) => void; option: number | null; onOption: (o: number) => void; settled: (next: string) => void }


const FOLDS = { size: SizeFold, marks: MarksFold, pose: PoseFold, supports: SupportsFold, layers: LayersFold, proof: ProofFold, log: LogFold };

export function FigurePage() {
  const { plan: id = "0", fold = "" } = useParams();
  const plan = usePlan(Number(id));
  if (plan.error) return <Trouble problem={plan.error as unknown as Problem} />;
  if (!plan.data) return <p className="p-10 text-faded">Unfolding the plan</p>;
  if (!(fold in FOLDS)) return <Navigate replace to={`/plan/${id}/${plan.data.next_fold ?? "proof"}`} />;
  return <Unfolded key={fold} plan={plan.data} fold={fold as keyof typeof FOLDS} />;
}

export function Trouble({ problem }: { problem: Problem }) {
  return (
    <div role="alert" className="m-10 max-w-xl border-l-4 border-persimmon bg-paper p-5">
      <h1 className="text-xl">{problem.message}</h1>
      <p className="mt-1 text-faded">{problem.remedy}</p>
      <a className="mt-3 inline-block text-indigo underline" href="/">To the bench</a>
    </div>
  );
}

function Unfolded({ plan, fold }: { plan: PlanState; fold: keyof typeof FOLDS }) {
  const [search, setSearch] = useSearchParams();
  const navigate = useNavigate();
  const { fail } = useView();
  const [stage, show] = useState<Stage>({});
  const intake = useComputation<Intake>(["intake", plan.figure_id], () => need(api.GET("/api/figures/{number}/intake", { params: { path: { number: plan.figure_id } } })));
  const back = usePlanChange(plan.id, () => undo(plan.id));
  const forth = usePlanChange(plan.id, () => redo(plan.id));
  useHotkeys("z, mod+z", () => stage.ownUndo?.back ? stage.ownUndo.back() : plan.can_undo && back.mutate(undefined, { onError: (e) => fail(e as unknown as Problem) }), { preventDefault: true });
  useHotkeys("shift+z, mod+shift+z", () => stage.ownUndo?.forth ? stage.ownUndo.forth() : plan.can_redo && forth.mutate(undefined, { onError: (e) => fail(e as unknown as Problem) }), { preventDefault: true });
  useHotkeys("1, 2, 3, 4, 5, 6, 7", (e) => navigate(`/plan/${plan.id}/${plan.folds[Number(e.key) - 1].name}`));
  useEffect(() => { document.title = `${TITLES[fold]} · ${plan.figure_name} · Tenugui`; }, [fold, plan.figure_name]);
  const put = (name: string, value: number | null) =>
    setSearch((old) => { const s = new URLSearchParams(old); if (value == null) s.delete(name); else s.set(name, String(value)); return s; }, { replace: true });
  const number = (name: string) => (search.has(name) && Number.isFinite(Number(search.get(name))) ? Number(search.get(name)) : null);
  // The cut follows the hand at once; the address follows when the hand rests.
  const [layer, cutAt] = useState(number("layer"));
  useEffect(() => {
    const rest = setTimeout(() => layer !== number("layer") && put("layer", layer), 200);
    return () => clearTimeout(rest);
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [layer]);
  // A mended copy, once taken, is what every fold turns.
  const chosen = (plan.folds[0].choice as { preview_sha?: string } | null)?.preview_sha;
  const height = stage.strip?.layer_height_mm;
  const Fold = FOLDS[fold];
  const sha = stage.sha ?? chosen ?? intake.document?.preview_sha ?? plan.preview_sha;
  const labels = useLabels(plan, chosen ?? intake.document?.preview_sha, fold !== "marks" && fold !== "size");
  const marks = stage.marks ?? (labels ? { labels, version: 0 } : null);
  return (
    <>
      <Crumbs trail={[{ text: plan.figure_name }, { text: `plan ${plan.number}` }]} undo={stage.ownUndo?.back ? { text: "Take back the last stroke", run: stage.ownUndo.back } : plan.can_undo ? { text: `Undo ${TITLES[plan.can_undo]}`, run: () => back.mutate(undefined) } : null} redo={stage.ownUndo?.forth ? { text: "The stroke again", run: stage.ownUndo.forth } : plan.can_redo ? { text: `Redo ${TITLES[plan.can_redo]}`, run: () => forth.mutate(undefined) } : null} />
      <FoldBand plan={plan} current={fold} />
      <RunningFigures plan={plan} preview={stage.numbers} bare={stage.bare} />
      <main className="grid min-h-0 flex-1 grid-cols-[minmax(300px,0.37fr)_minmax(0,0.63fr)] gap-6 px-8 pb-2">
        <div className={`grid min-h-0 gap-2 ${stage.second ? "grid-rows-2" : ""}`}>
        <Turntable sha={sha} marks={marks} overlay={stage.overlay} thick={stage.thick} onPick={stage.onPick} supports={stage.supports} matrix={stage.matrix} limit={stage.limit} onTurn={stage.onTurn} still={!!stage.onTurn} title={stage.title} cut={layer == null || !height ? null : (layer + 1) * height} pin={stage.pin} stale={stage.stale} label={`${plan.figure_name} on the turntable`} />
        {stage.second && <Turntable sha={sha} marks={marks} matrix={stage.second.matrix} limit={stage.limit} cut={layer == null || !height ? null : (layer + 1) * height} title={stage.second.title} plain label={`${plan.figure_name}, ${stage.second.title}`} />}
        </div>
        <div className="min-h-0 overflow-y-auto pr-1">
          <Fold plan={plan} intake={intake.document} show={show} layer={layer} onLayer={cutAt} option={number("option")} onOption={(o) => put("option", o)} settled={(next) => navigate(`/plan/${plan.id}/${next}`)} />
        </div>
      </main>
      <footer className="border-t border-thread bg-paper px-8 pb-1 pt-2">{stage.ribbons ? <Ribbons {...stage.ribbons} /> : stage.strips ? <><Strip compact title={stage.strips.above.title} data={stage.strips.above.data} layer={layer} onLayer={cutAt} empty="" /><Strip compact title={stage.strips.below.title} data={stage.strips.below.data} layer={layer} onLayer={cutAt} empty="" /></> : <Strip data={stage.strip ?? null} layer={layer} onLayer={cutAt} stale={stage.stale} low={fold === "marks"} empty={stage.empty ?? "The figure's ribbon appears here as soon as its layers have been read."} />}</footer>
    </>
  );
}
