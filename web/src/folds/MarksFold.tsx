import { useEffect, useMemo, useState } from "react";
import { useHotkeys } from "react-hotkeys-hook";
import { api, need, type PlanState, type Proposals, type Schemas } from "../api/client";
import type { Thick } from "../stage/scene";
import { useKit, usePlanChange } from "../api/queries";
import { useView } from "../shell/view";
import type { Brush, Stroke } from "../turntable/surface";
import { useStage } from "./board";
import { Deciding, Heading, NotYet } from "./Heading";
import { KIND } from "./marks/kinds";
import { Proposed } from "./marks/Proposed";
import { HandTools, Kinds, TOOLS, WIDE, type Handling } from "./marks/Tools";
import { useGround } from "./marks/useMarks";
import { forgetDraft, usePainted, useStrokes } from "./marks/useStrokes";
import { FACING, onItsFeet, stood, turnOf, Z_UP } from "./size/stood";
import { afterOf, foldOf, type FoldProps } from "./types";

const LINE =
  "The pose and the supports are found for these marks. " +
  "Paint on the figure; drag beside it, or with Shift, to turn it.";
const FIRST: Handling = { kind: "show", tool: "brush", wide: 4, crease: 50, mirror: false };
const tenth = (v: number) => Math.round(v * 10) / 10;

export function MarksFold(props: FoldProps) {
  if (!foldOf(props.plan, "marks").ready)
    return <NotYet plan={props.plan} fold="marks" line="Marks are painted at the figure's size." />;
  // A decision taken back or brought back elsewhere is what lies here, unless there are strokes of the hand.
  return <Marking key={`${props.plan.head}`} {...props} />;
}

/** Keys for kind, tool and the brush's size. */
function useHandKeys(onHand: (change: (hand: Handling) => Handling) => void) {
  useHotkeys(KIND.map((k) => k.key).join(), (_, { keys }) => {
    const asked = KIND.find((k) => keys?.includes(k.key));
    if (asked) onHand((h) => ({ ...h, kind: asked.name }));
  });
  useHotkeys(TOOLS.map(([, , key]) => key).join(), (_, { keys }) => {
    const asked = TOOLS.find(([, , key]) => keys?.includes(key));
    if (asked) onHand((h) => ({ ...h, tool: asked[0] }));
  });
  const wider = (by: number) =>
    onHand((h) => ({ ...h, wide: tenth(Math.min(WIDE.most, Math.max(WIDE.least, h.wide * by))) }));
  useHotkeys("BracketLeft", () => wider(0.8), { useKey: false });
  useHotkeys("BracketRight", () => wider(1.25), { useKey: false });
}

function useTakeMarks(plan: PlanState, settled: FoldProps["settled"]) {
  const { fail, say } = useView();
  const change = usePlanChange(plan.id, (body: Schemas["MarksDecision"]) =>
    need(api.POST("/api/plans/{number}/marks", { params: { path: { number: plan.id } }, body })),
  );
  const take = (strokes: Stroke[], bare: boolean, faceless: boolean) =>
    change.mutate(
      {
        head: plan.head,
        strokes: strokes as Schemas["MarksDecision"]["strokes"],
        bare,
        faceless,
        wish: foldOf(plan, "marks").choice?.wish ?? null,
        reason: "",
      },
      {
        onSuccess: (state) => {
          forgetDraft(plan.id);
          say({ text: "Marks settled. Z takes it back." });
          settled(afterOf(state, "marks"));
        },
        onError: fail,
      },
    );
  return { take, busy: change.isPending };
}

/** What people look at, as a dye: densely a face, openly what else draws the eye. */
const looksOf = (told: Proposals | null | undefined): Thick | null =>
  told ? { sha: told.overlooked_sha, limits: [0.1, 0.55], called: "what people look at" } : null;

function Marking({ plan, intake, show, settled }: FoldProps) {
  const size = foldOf(plan, "size").choice;
  const factor = size?.factor ?? 1;
  const { strokes, undone, dirty, add, back, forth, bare, setBare, faceless, setFaceless } =
    useStrokes(plan);
  const [hand, setHand] = useState<Handling>(FIRST);
  const { fail, say, setDye } = useView();
  const { ground, proposals } = useGround(
    plan,
    intake && (size?.preview_sha ?? intake.preview_sha),
    strokes,
    true,
  );
  const { painted, byHand } = usePainted(ground, strokes);
  const { take, busy } = useTakeMarks(plan, settled);
  const kit = useKit(plan.kit_id).data;
  useHandKeys(setHand);
  useHotkeys("enter", () => take(strokes, bare, faceless), [strokes, bare, faceless]);
  useEffect(() => {
    setDye("marks");
    return () => setDye("plain");
  }, [setDye]);

  const plane = ground?.plane ?? null;
  const soft = bare ? null : (ground?.soft ?? null);
  const brush = useMemo<Brush | null>(() => {
    if (!painted) return null;
    const radius = hand.wide / 2 / factor;
    const stroke: Stroke = {
      tool: hand.tool,
      kind: hand.kind,
      mirror: hand.mirror && !!plane,
      crease: hand.tool === "flat" ? 180 : hand.crease,
      ...(hand.tool === "brush" ? { radius } : {}),
    };
    const done = (s: Stroke, laid: boolean) => {
      if (laid) byHand();
      add(s);
    };
    return { stroke, labels: painted.labels, soft, plane, radius, done };
    // eslint-disable-next-line react-hooks/exhaustive-deps -- adding is the same at every drawing
  }, [painted, plane, soft, hand, factor]);
  const hull = intake?.hull;
  const [up, front] = [size?.up, size?.front];
  const matrix = useMemo(() => {
    const turn = turnOf(up ?? Z_UP, front ?? FACING);
    return hull ? onItsFeet(turn, factor, stood(hull, turn)) : undefined;
  }, [hull, up, front, factor]);
  useStage(
    show,
    {
      items: [
        {
          kind: "figure",
          sha: null,
          matrix,
          thick: looksOf(proposals.document),
          marks: painted && { labels: painted.labels, soft, version: painted.version, brush },
        },
      ],
      foot: {
        kind: "empty",
        low: true,
        text: "The ribbon comes with the pose: marks are laid on the figure as it stands by itself.",
      },
      own:
        dirty || undone.length
          ? { back: dirty ? back : undefined, forth: undone.length ? forth : undefined }
          : undefined,
    },
    [brush, painted, soft, strokes, undone, matrix, proposals.document],
  );

  const share = () =>
    need(
      api.POST("/api/plans/{number}/marks/share", { params: { path: { number: plan.id } } }),
    ).then(
      (n) => say({ text: `${n} other part${n === 1 ? "" : "s"} took the proposals and rates.` }),
      fail,
    );
  const mirrors = ground?.plane ? true : proposals.document ? false : null;
  return (
    <>
      <Heading title={foldOf(plan, "marks").question} line={LINE} />
      <div className="flex flex-wrap gap-x-6 gap-y-3">
        <div className="min-w-[280px] flex-1">
          <Kinds
            kind={hand.kind}
            onKind={(kind) => setHand({ ...hand, kind })}
            painted={painted}
            factor={factor}
          />
        </div>
        <div className="min-w-[280px] flex-1 space-y-2.5">
          <HandTools hand={hand} onHand={setHand} mirrors={mirrors} />
          <div className="flex flex-wrap gap-1.5">
            <button
              type="button"
              className="quiet px-2.5"
              disabled={!strokes.length}
              onClick={back}
            >
              Take back
            </button>
            <button
              type="button"
              className="quiet px-2.5"
              disabled={!undone.length}
              onClick={forth}
            >
              Again
            </button>
            <button
              type="button"
              className="quiet px-2.5"
              disabled={!painted?.labels.some(Boolean)}
              onClick={() => add({ tool: "clear" })}
            >
              Bare all
            </button>
            <span className="self-center text-[12.5px] text-faded">
              {strokes.length} stroke{strokes.length === 1 ? "" : "s"}
            </span>
          </div>
          <Proposed
            proposals={proposals}
            strokes={strokes}
            onAdd={add}
            bare={bare}
            onBare={setBare}
            faceless={faceless}
            onFaceless={setFaceless}
          />
        </div>
      </div>
      <Deciding
        said={
          dirty
            ? "Not taken yet; what you painted is kept here."
            : strokes.length
              ? "Where you paint over a proposal, the hand has the last word."
              : bare
                ? "Bare: every surface counts alike."
                : "Unmarked, what the figure itself says counts softly in all that follows."
        }
      >
        {kit && kit.parts.length > 1 && !dirty && (
          <button type="button" className="quiet" onClick={() => void share()}>
            Copy proposals to the other parts
          </button>
        )}
        <button
          type="button"
          className="take"
          disabled={busy || !ground}
          onClick={() => take(strokes, bare, faceless)}
        >
          {strokes.length ? "Take these marks" : "Go on without marks"}
        </button>
      </Deciding>
    </>
  );
}
