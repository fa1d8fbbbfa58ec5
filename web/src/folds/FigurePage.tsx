import { useQueryClient } from "@tanstack/react-query";
import { Suspense, useCallback, useEffect, useRef, useState, type ComponentType } from "react";
import { useHotkeys } from "react-hotkeys-hook";
import { Navigate, useNavigate, useParams } from "react-router";
import { problemOf, type PlanState } from "../api/client";
import { useIntake } from "../api/figure";
import { redo, undo, usePlan, usePlanChange } from "../api/queries";
import { useAddress, type Said } from "../shell/address";
import { Crumbs, type Act } from "../shell/Header";
import { later } from "../shell/later";
import { Boundary, Trouble } from "../shell/Trouble";
import { useView } from "../shell/view";
import { BARE, find, type Item, type Stage } from "../stage/scene";
import { FootOf } from "../strip/FootOf";
import { Turntable } from "../turntable/Turntable";
import { FoldBand } from "./FoldBand";
import { useLabels } from "./marks/useMarks";
import { RunningFigures } from "./RunningFigures";
import { foldOf, type FoldProps } from "./types";

/** Every fold by its name; its code comes when it is first unfolded. */
const FOLDS: Record<string, ComponentType<FoldProps>> = {
  size: later(() => import("./SizeFold").then((m) => m.SizeFold)),
  marks: later(() => import("./MarksFold").then((m) => m.MarksFold)),
  pose: later(() => import("./PoseFold").then((m) => m.PoseFold)),
  hollow: later(() => import("./HollowFold").then((m) => m.HollowFold)),
  walls: later(() => import("./WallsFold").then((m) => m.WallsFold)),
  supports: later(() => import("./SupportsFold").then((m) => m.SupportsFold)),
  layers: later(() => import("./LayersFold").then((m) => m.LayersFold)),
  proof: later(() => import("./ProofFold").then((m) => m.ProofFold)),
  log: later(() => import("./LogFold").then((m) => m.LogFold)),
};

export function FigurePage() {
  const { plan: id = "0", fold = "" } = useParams();
  const plan = usePlan(Number(id));
  if (plan.error) return <Trouble problem={problemOf(plan.error)} />;
  if (!plan.data) return <p className="p-10 text-faded">Unfolding the plan</p>;
  if (!(fold in FOLDS) || !plan.data.folds.some((f) => f.name === fold))
    return <Navigate replace to={`/plan/${id}/${plan.data.next_fold ?? "proof"}`} />;
  return <Unfolded key={id} plan={plan.data} fold={fold} />;
}

/** A part whose kit was sized while it was being examined takes that size: its plan is read again then. */
function useOnceExamined(plan: number, { job, document }: ReturnType<typeof useIntake>) {
  const client = useQueryClient();
  const examining = useRef(false);
  useEffect(() => {
    if (job) examining.current = true;
    else if (document && examining.current) {
      examining.current = false;
      void client.invalidateQueries({ queryKey: ["plan", plan] });
    }
  }, [job, document, plan, client]);
}

/** Undo and redo: the fold's own strokes first, then the plan's decisions. */
function useTakingBack(plan: PlanState, stage: Stage): { back: Act | null; forth: Act | null } {
  const { fail } = useView();
  const back = usePlanChange(plan.id, () => undo(plan));
  const forth = usePlanChange(plan.id, () => redo(plan));
  const acts = {
    back: stage.own?.back
      ? { text: "Take back the last stroke", run: stage.own.back }
      : plan.can_undo
        ? { text: `Undo ${plan.can_undo}`, run: () => back.mutate(undefined, { onError: fail }) }
        : null,
    forth: stage.own?.forth
      ? { text: "The stroke again", run: stage.own.forth }
      : plan.can_redo
        ? { text: `Redo ${plan.can_redo}`, run: () => forth.mutate(undefined, { onError: fail }) }
        : null,
  };
  useHotkeys("z, mod+z", () => acts.back?.run(), { preventDefault: true }, [acts]);
  useHotkeys("shift+z, mod+shift+z", () => acts.forth?.run(), { preventDefault: true }, [acts]);
  return acts;
}

/** The layer at which the figure is cut: it follows the hand at once; the address follows when the hand rests. */
function useCut(number: (name: string) => number | null, put: (said: Said) => void) {
  const [layer, cutAt] = useState(number("layer"));
  const written = number("layer");
  useEffect(() => {
    const rest = setTimeout(() => layer !== written && put({ layer }), 200);
    return () => clearTimeout(rest);
  }, [layer, written, put]);
  return [layer, cutAt] as const;
}

function Unfolded({ plan, fold }: { plan: PlanState; fold: string }) {
  const navigate = useNavigate();
  const { put, number } = useAddress();
  const [stage, show] = useState<Stage>(BARE);
  const intake = useIntake(plan.figure_id);
  useOnceExamined(plan.id, intake);
  const { back, forth } = useTakingBack(plan, stage);
  const [layer, cutAt] = useCut(number, put);
  useHotkeys("1, 2, 3, 4, 5, 6, 7, 8, 9", (e) => {
    const asked = plan.folds.at(Number(e.key) - 1);
    if (asked) void navigate(`/plan/${plan.id}/${asked.name}`);
  });
  const { title } = foldOf(plan, fold);
  useEffect(() => {
    document.title = `${title} · ${plan.figure_name} · Tenugui`;
  }, [title, plan.figure_name]);
  const onOption = useCallback((o: number) => put({ option: o }), [put]);
  const settled = useCallback(
    (next: string) => void navigate(`/plan/${plan.id}/${next}`),
    [navigate, plan.id],
  );
  const Fold = FOLDS[fold];
  const marked = fold !== "marks" && fold !== "size";
  const preview =
    foldOf(plan, "size").choice?.preview_sha ?? intake.document?.preview_sha ?? plan.preview_sha;
  const labels = useLabels(plan, preview, marked && !!intake.document);
  const dressed = (items: Item[]) =>
    items.map((item) =>
      item.kind === "figure"
        ? {
            ...item,
            sha: item.sha ?? preview,
            // Labels are of the preview's own faces: on another body they mean nothing.
            marks: item.marks ?? (item.sha && item.sha !== preview ? null : labels),
          }
        : item,
    );
  const items = stage.items.length ? stage.items : [{ kind: "figure", sha: preview } as const];
  const height = stage.foot.kind === "strip" ? stage.foot.data.layer_height_mm : heightOf(stage);
  const cut = layer == null || !height || find(items, "hand") ? null : (layer + 1) * height;
  return (
    <>
      <Crumbs
        trail={[
          { text: plan.figure_name },
          { text: `plan ${plan.number}`, to: `/line/${plan.id}` },
        ]}
        undo={back}
        redo={forth}
      />
      <FoldBand plan={plan} current={fold} />
      <RunningFigures plan={plan} preview={stage.figures?.shown} against={stage.figures?.against} />
      <main className="unfolded min-h-0 flex-1 px-8 pb-2 max-[1100px]:px-5">
        <div
          className={`grid min-h-0 gap-2 ${stage.beside ? "grid-rows-2 portrait:grid-cols-2 portrait:grid-rows-1" : ""}`}
        >
          <Turntable
            items={dressed(items)}
            cut={cut}
            stale={stage.stale}
            title={stage.title}
            label={`${plan.figure_name} on the turntable`}
          />
          {stage.beside && (
            <Turntable
              plain
              items={dressed(stage.beside.items)}
              cut={cut}
              title={stage.beside.title}
              label={`${plan.figure_name}, ${stage.beside.title}`}
            />
          )}
        </div>
        <div className="min-h-0 overflow-y-auto pr-1">
          <Boundary key={fold}>
            <Suspense fallback={<p className="py-4 text-faded">Unfolding it</p>}>
              <Fold
                plan={plan}
                intake={intake.document}
                show={show}
                layer={layer}
                onLayer={cutAt}
                option={number("option")}
                onOption={onOption}
                settled={settled}
              />
            </Suspense>
          </Boundary>
        </div>
      </main>
      <footer className="border-t border-thread bg-paper px-8 pt-2 pb-1 max-[1100px]:px-5">
        <FootOf foot={stage.foot} layer={layer} onLayer={cutAt} stale={stage.stale} />
      </footer>
    </>
  );
}

const heightOf = (stage: Stage) =>
  stage.foot.kind === "two strips" ? stage.foot.above.data.layer_height_mm : undefined;
