import { useEffect, useMemo, useRef, useState } from "react";
import { useHotkeys } from "react-hotkeys-hook";
import { useQuery } from "@tanstack/react-query";
import { api, need, type Problem } from "../api/client";
import { usePlanChange } from "../api/queries";
import { count } from "../shell/format";
import { useView } from "../shell/view";
import { codeOf, type Stroke } from "../turntable/surface";
import type { FoldProps } from "./FigurePage";
import { Heading, isReady, NotYet } from "./NotYet";
import { Waiting } from "./Waiting";
import { KIND, Weave } from "./marks/kinds";
import { strokesOf, useGround } from "./marks/useMarks";
import { useStage } from "./board";

const TOOLS = [["brush", "Brush", "a"], ["fill", "To the creases", "c"], ["flat", "Flat face", "e"]] as const;
const SAID: Record<string, [string, string]> = {
  seen: ["Seen from around the table, with relief", "show"], unseen: ["Seen from nowhere around the table", "hidden"],
  cuts: ["Flat cut faces", "hidden"], fits: ["Pegs, sockets and what they meet", "fit"],
};

/** Strokes that were not taken yet survive leaving the page. */
const draftOf = (plan: number) => `tenugui-marks-${plan}`;
function kept(plan: number): Stroke[] | null {
  try {
    return JSON.parse(localStorage.getItem(draftOf(plan)) ?? "null") as Stroke[] | null;
  } catch {
    return null;
  }
}

export function MarksFold({ plan, intake, show, settled }: FoldProps) {
  const ready = isReady(plan, "marks");
  const size = plan.folds[0].choice as { factor: number; preview_sha?: string } | null;
  const factor = size?.factor ?? 1;
  const stored = strokesOf(plan);
  const storedKey = JSON.stringify(stored);
  const [strokes, setStrokes] = useState<Stroke[]>(() => kept(plan.id) ?? stored);
  const [undone, setUndone] = useState<Stroke[]>([]);
  const [kind, setKind] = useState("show");
  const [tool, setTool] = useState<"brush" | "fill" | "flat">("brush");
  const [wide, setWide] = useState(4);
  const [crease, setCrease] = useState(50);
  const [mirror, setMirror] = useState(false);
  const { fail, say, setDye } = useView();
  const { ground, proposals } = useGround(plan, ready ? size?.preview_sha ?? intake?.preview_sha : null, strokes, ready);
  const labels = useRef<{ for: unknown; held: Uint8Array } | null>(null);
  const [version, setVersion] = useState(0);
  const dirty = JSON.stringify(strokes) !== storedKey;

  // A decision taken back or brought back elsewhere is what lies here, unless there are strokes of the hand.
  const last = useRef(storedKey);
  useEffect(() => {
    if (last.current === storedKey) return;
    last.current = storedKey;
    setStrokes(stored);
    setUndone([]);
    localStorage.removeItem(draftOf(plan.id));
    labels.current = null;
  }, [storedKey]);
  useEffect(() => { if (dirty) localStorage.setItem(draftOf(plan.id), JSON.stringify(strokes)); else localStorage.removeItem(draftOf(plan.id)); }, [strokes, dirty]);
  useEffect(() => { setDye("marks"); return () => setDye("plain"); }, []);

  // Painting writes into the labels as it goes; whatever else changes the strokes has them done again.
  const painted = useRef(false);
  useEffect(() => {
    if (!ground) return;
    if (painted.current && labels.current?.for === ground) painted.current = false;
    else labels.current = { for: ground, held: ground.surface.replay(strokes, ground.saying, ground.plane, ground.own) };
    setVersion((v) => v + 1);
  }, [ground, strokes]);

  const add = (stroke: Stroke, byHand = false) => { painted.current = byHand; setUndone([]); setStrokes((s) => [...s, stroke]); };
  const back = () => { const s = strokes.at(-1); if (s) { setUndone((u) => [...u, s]); setStrokes((o) => o.slice(0, -1)); } };
  const forth = () => { const s = undone.at(-1); if (s) { setUndone((u) => u.slice(0, -1)); setStrokes((o) => [...o, s]); } };
  const brush = useMemo(() => {
    if (!ground || !labels.current) return null;
    const radius = wide / 2 / factor;
    const stroke: Stroke = { tool, kind, mirror: mirror && !!ground.plane, crease: tool === "flat" ? 180 : crease, ...(tool === "brush" ? { radius } : {}) };
    return { stroke, labels: labels.current.held, plane: ground.plane, radius, done: (s: Stroke) => add(s, true) };
  }, [ground, version, tool, kind, wide, crease, mirror, factor]);
  useStage(show, {
    marks: labels.current && ground ? { labels: labels.current.held, version, brush } : null,
    ownUndo: dirty || undone.length ? { back: dirty ? back : undefined, forth: undone.length ? forth : undefined } : undefined,
    matrix: intake && size ? [factor, 0, 0, 0, 0, factor, 0, 0, 0, 0, factor, 0, -factor * (intake.lower[0] + intake.size_mm[0] / 2), -factor * (intake.lower[1] + intake.size_mm[1] / 2), -factor * intake.lower[2], 1] : undefined,
    empty: "The ribbon comes with the pose: marks are laid on the figure as it stands in its file.",
  }, [brush, version, ground, strokes, undone, intake, factor]);

  for (const k of KIND) useHotkeys(k.key, () => setKind(k.name));
  for (const [name, , key] of TOOLS) useHotkeys(key, () => setTool(name));
  useHotkeys("BracketLeft", () => setWide((w) => Math.max(0.5, Math.round(w * 0.8 * 10) / 10)), { useKey: false });
  useHotkeys("BracketRight", () => setWide((w) => Math.min(40, Math.round(w * 1.25 * 10) / 10)), { useKey: false });

  const shares = useMemo(() => {
    if (!ground || !labels.current) return null;
    const sums = new Float64Array(6);
    labels.current.held.forEach((c, f) => { sums[c] += ground.surface.areas[f]; });
    return { mm2: (k: string) => sums[codeOf(k)] * factor * factor, whole: sums.reduce((a, b) => a + b, 0) * factor * factor };
  }, [version, ground, factor]);

  const change = usePlanChange(plan.id, (body: { strokes: Stroke[] }) => need(api.POST("/api/plans/{number}/marks", { params: { path: { number: plan.id } }, body: { ...body, strokes: body.strokes as never, priorities: (plan.folds.find((f) => f.name === "marks")?.choice as { priorities?: Record<string, number> } | null)?.priorities ?? {}, reason: "" } })));
  const take = () => change.mutate({ strokes }, { onSuccess: () => { localStorage.removeItem(draftOf(plan.id)); say({ text: "Marks settled. Z takes it back." }); settled("pose"); }, onError: (e) => fail(e as unknown as Problem) });
  useHotkeys("enter", () => ready && take(), [strokes, ready]);
  const kit = useQuery({ queryKey: ["kit", plan.kit_id], queryFn: () => need(api.GET("/api/kits/{number}", { params: { path: { number: plan.kit_id! } } })), enabled: plan.kit_id != null }).data;
  const share = () => need(api.POST("/api/plans/{number}/marks/share", { params: { path: { number: plan.id } } })).then((n) => say({ text: `${n} other part${n === 1 ? "" : "s"} took the proposals and priorities.` }), (e) => fail(e as Problem));

  if (!ready) return <><Heading title="Which surfaces matter?" line="Marks are painted at the figure's size." /><NotYet plan={plan} fold="marks" /></>;
  return (
    <>
      <Heading title="Which surfaces matter?" line="The pose and the supports are found for these marks. Paint on the figure; drag beside it, or with Shift, to turn it." />
      <div className="grid grid-cols-[minmax(0,1fr)_minmax(0,1fr)] gap-x-6">
        <div role="radiogroup" aria-label="Mark">
          {KIND.map((k) => {
            const mm2 = shares && k.name !== "none" ? shares.mm2(k.name) : null;
            return (
              <button key={k.name} type="button" role="radio" aria-checked={kind === k.name} onClick={() => setKind(k.name)} className={`flex w-full items-center gap-2.5 border-b border-thread/60 px-2 py-1 text-left ${kind === k.name ? "bg-paper shadow-[inset_3px_0_0_var(--indigo)]" : "hover:bg-paper/60"}`}>
                <Weave kind={k.name} /><span className="min-w-0 flex-1"><span className="block font-medium leading-tight">{k.title}</span><span className="block text-[12px] leading-tight text-faded">{k.text}</span></span>
                {mm2 != null && mm2 > 0 && shares && <span className="shrink-0 text-right text-[12.5px]">{count(Math.round(mm2))} mm²<span className="block text-faded">{((100 * mm2) / shares.whole).toFixed(0)} %</span></span>}<kbd className="shrink-0">{k.key.toUpperCase()}</kbd>
              </button>
            );
          })}
        </div>
        <div className="space-y-2.5">
          <div className="flex gap-1.5" role="radiogroup" aria-label="Tool">{TOOLS.map(([name, text, key]) => <button key={name} type="button" role="radio" aria-checked={tool === name} aria-pressed={tool === name} title={`key ${key.toUpperCase()}`} className="quiet px-2.5" onClick={() => setTool(name)}>{text}</button>)}</div>
          {tool === "brush" && <label className="flex items-center gap-2 text-[13px]"><span className="w-20 text-faded">Brush</span><input type="range" min="0.5" max="20" step="0.1" value={wide} onChange={(e) => setWide(Number(e.target.value))} className="flex-1 accent-(--indigo)" /><span className="w-16 text-right">{wide.toFixed(1)} mm</span></label>}
          {tool !== "flat" && <label className="flex items-center gap-2 text-[13px]"><span className="w-20 text-faded">Stops at</span><input type="range" min="5" max="180" step="5" value={crease} onChange={(e) => setCrease(Number(e.target.value))} className="flex-1 accent-(--indigo)" /><span className="w-16 text-right">{crease >= 180 ? "nothing" : `${crease}° edge`}</span></label>}
          <label className={`flex items-center gap-2 text-[13px] ${ground?.plane ? "" : "text-faded"}`}><input type="checkbox" checked={mirror && !!ground?.plane} disabled={!ground?.plane} onChange={(e) => setMirror(e.target.checked)} className="accent-(--indigo)" />{ground?.plane ? "On both sides: the figure is its own mirror" : proposals.document ? "No mirror: its two sides differ" : "Looking for a mirror"}</label>
          <div className="flex gap-1.5">
            <button type="button" className="quiet px-2.5" disabled={!strokes.length} onClick={back}>Take back</button><button type="button" className="quiet px-2.5" disabled={!undone.length} onClick={forth}>Again</button>
            <button type="button" className="quiet px-2.5" disabled={!labels.current?.held.some(Boolean)} onClick={() => add({ tool: "clear" })}>Bare all</button><span className="self-center text-[12.5px] text-faded">{strokes.length} stroke{strokes.length === 1 ? "" : "s"}</span>
          </div>
          <section aria-labelledby="proposed" className="pt-1">
            <h2 id="proposed" className="text-[17px]">What the figure itself says</h2>
            <Waiting of={proposals} what="Looking at it from around the table" />
            <ul>
              {proposals.document?.proposals.filter((p) => p.share > 0.0005).map((p) => {
                const on = strokes.some((s, i) => s.tool === "propose" && s.what === p.name && !strokes.slice(i).some((t) => t.tool === "clear"));
                return <li key={p.name} className="flex items-center gap-2 border-b border-thread/60 py-0.5"><Weave kind={p.kind} size={14} /><span className="flex-1 text-[13.5px] leading-tight">{SAID[p.name][0]} <span className="text-[12.5px] text-faded">{(100 * p.share).toFixed(p.share < 0.01 ? 1 : 0)} %</span></span><button type="button" className="quiet min-h-[26px] px-2 py-0 text-[13px]" disabled={on} onClick={() => add({ tool: "propose", what: p.name, kind: p.kind })}>{on ? "laid on" : `Lay on as ${SAID[p.name][1]}`}</button></li>;
              })}
            </ul>
            {proposals.document && !proposals.document.proposals.some((p) => p.share > 0.0005) && <p className="text-faded">Nothing stands out.</p>}
          </section>
        </div>
      </div>
      <div className="sticky bottom-0 mt-1 flex items-center justify-between gap-4 bg-cotton py-2">
        <span className="text-[13px] text-faded">{dirty ? "Not taken yet; what you painted is kept here." : "Where you paint over a proposal, the hand has the last word."}</span>
        <span className="flex gap-2">
          {kit && kit.parts.length > 1 && !dirty && <button type="button" className="quiet" onClick={() => void share()}>Copy proposals to the other parts</button>}
          <button type="button" className="take" disabled={change.isPending || !ground} onClick={take}>{strokes.length ? "Take these marks" : "Go on without marks"}</button>
        </span>
      </div>
    </>
  );
}
