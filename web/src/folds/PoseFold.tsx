import { useEffect, useMemo, useRef, useState } from "react";
import { useHotkeys } from "react-hotkeys-hook";
import { useSearchParams } from "react-router";
import { Quaternion, type Vector3 } from "three";
import { api, need, type Schemas } from "../api/client";
import type { Numbers, PoseBoard, PoseRow } from "../api/documents";
import { useFold } from "../api/queries";
import { ChanceBar } from "../patterns/Patterns";
import { count, hm } from "../shell/format";
import { useView } from "../shell/view";
import type { FoldProps } from "./FigurePage";
import { Heading, isReady, NotYet } from "./NotYet";
import { Waiting } from "./Waiting";
import { rowProps, useBoardKeys, useStage, useTake } from "./board";
import { downOf, onPlate, turnTo, type Down } from "./pose/globe";
import { MapView } from "./pose/MapView";
import { poseName } from "./pose/words";

type Wishes = { priorities?: Record<string, number>; pinned?: Down[] };
export type Ranked = Schemas["Ranked"];
export type Weighed = Schemas["Weighed"];

export function PoseFold({ plan, intake, show, option, onOption, settled }: FoldProps) {
  const ready = isReady(plan, "pose");
  const held = plan.folds.find((f) => f.name === "pose")!;
  const settledWishes = (held.choice as { wishes?: Wishes } | null)?.wishes;
  const marked = plan.folds.find((f) => f.name === "marks")?.choice as { priorities?: Record<string, number>; strokes?: unknown[] } | null;
  const [priorities, setPriorities] = useState<Record<string, number>>(settledWishes?.priorities ?? marked?.priorities ?? {});
  const [asked, setAsked] = useState<Wishes>(settledWishes ?? (marked?.priorities ? { priorities: marked.priorities } : {}));
  const [search, setSearch] = useSearchParams();
  const { fail, setDye } = useView();
  const wishes = useMemo(() => ({ priorities: asked.priorities ?? {}, pinned: asked.pinned ?? [] }), [asked]);
  const plain = !Object.keys(wishes.priorities).length && !wishes.pinned.length;
  const board = useFold<PoseBoard>(plan, "pose", ready, plain ? undefined : JSON.stringify(wishes));
  const { take, busy } = useTake(plan, "pose", "supports", settled, plain ? undefined : wishes);
  const data = board.document ?? board.old;
  const taken = held.state === "settled" && JSON.stringify(settledWishes ?? {}) === JSON.stringify(plain ? {} : asked) ? ((held.choice as { option?: number })?.option ?? null) : null;
  const shown = Math.min(option ?? taken ?? data?.recommended ?? 0, (data?.candidates.length ?? 1) - 1);
  const row: PoseRow | undefined = data?.candidates[shown];
  const view = search.get("view") === "map" ? "map" : "board";
  const besideText = search.get("beside");
  const beside = besideText != null && data?.candidates[Number(besideText)] && Number(besideText) !== shown ? Number(besideText) : null;
  const put = (name: string, value: string | null) => setSearch((old) => { const s = new URLSearchParams(old); if (value == null) s.delete(name); else s.set(name, value); return s; }, { replace: true });
  const factor = (plan.folds[0].choice as { factor: number } | null)?.factor ?? 1;

  // A figure turned by hand: its own turn, and what the server says of it.
  const [turn, setTurn] = useState<Quaternion | null>(null);
  const [hover, setHover] = useState<number | null>(null);
  const [said, setSaid] = useState<Weighed | null>(null);
  const [ranked, setRanked] = useState<Ranked | null>(null);
  const hand: Down | null = turn ? downOf(turn) : null;
  const hull = intake?.hull;
  const flight = useRef<{ busy: boolean; next: Down | null }>({ busy: false, next: null });
  const weigh = (down: Down) => {
    if (flight.current.busy) { flight.current.next = down; return; }
    flight.current = { busy: true, next: null };
    need(api.POST("/api/plans/{number}/pose/weigh", { params: { path: { number: plan.id } }, body: { down, priorities } })).then(setSaid, (e) => fail(e as never)).finally(() => {
      flight.current.busy = false;
      if (flight.current.next) weigh(flight.current.next);
    });
  };
  const key = hand?.map((v) => v.toFixed(4)).join();
  useEffect(() => { if (hand && data) weigh(hand); else setSaid(null); }, [key, !data, priorities]);
  const moved = JSON.stringify(priorities) !== JSON.stringify(wishes.priorities);
  useEffect(() => {
    if (!data || !moved) return setRanked(null);
    let here = true;
    const soon = setTimeout(() => need(api.POST("/api/plans/{number}/pose/rank", { params: { path: { number: plan.id } }, body: { priorities, pinned: [] } })).then((r) => here && setRanked(r), (e) => fail(e as never)), 60);
    return () => { here = false; clearTimeout(soon); };
  }, [JSON.stringify(priorities), moved, !data]);
  const onTurn = useMemo(() => (axis: Vector3, angle: number) => setTurn((t) => t && new Quaternion().setFromAxisAngle(axis, angle).multiply(t)), []);
  const toHand = (down: Down) => { setHover(null); setTurn(turnTo(down)); };
  const keep = () => { if (hand) { setAsked({ priorities, pinned: [...(wishes.pinned ?? []).slice(-3), hand.map((v) => Number(v.toFixed(6))) as Down] }); setTurn(null); setSearch((old) => { const s = new URLSearchParams(old); s.delete("view"); s.delete("beside"); s.set("option", String(data!.candidates.length - wishes.pinned.length + Math.min(3, wishes.pinned.length))); return s; }, { replace: true }); } };

  useBoardKeys(data?.candidates.length ?? 0, shown, (o) => { setTurn(null); onOption(o); }, () => board.document && !turn && !ranked && take(shown));
  useHotkeys("m", () => put("view", view === "map" ? null : "map"), [view, search]);
  const other = beside != null ? data!.candidates[beside] : null;
  useEffect(() => { if (other) { setDye(marked?.strokes?.length ? "scars" : "ceilings"); return () => setDye("plain"); } }, [!!other]);
  const seen = turn ?? (hover != null && data ? turnTo(data.map.down[hover] as Down) : null);
  const anew = view === "map" && ranked ? ranked.candidates[Math.min(shown, ranked.candidates.length - 1)] : null;
  const matrix = seen && hull ? onPlate(seen, factor, hull) : anew?.matrix ?? row?.matrix;
  const matrixKey = matrix?.map((v) => v.toFixed(4)).join();
  const title = row ? `${shown + 1}: ${poseName(row.down)}` : "";
  useStage(show, {
    strip: turn || anew ? null : row?.strip, matrix, limit: data?.map.limit, onTurn: turn ? onTurn : null, numbers: taken === shown || turn || anew ? null : row?.numbers, bare: (held.numbers as unknown as Numbers | null) ?? null, stale: !!data && !board.document && !turn,
    title: turn ? "turned by hand: drag it" : hover != null && data ? poseName(data.map.down[hover]) : other ? title : undefined,
    second: other && !turn ? { matrix: other.matrix, title: `${beside! + 1}: ${poseName(other.down)}` } : null,
    strips: other && row && !turn ? { above: { title: `${title}, overhang ${row.overhang_mm2.toFixed(0)} mm²`, data: row.strip }, below: { title: `${beside! + 1}: ${poseName(other.down)}, overhang ${other.overhang_mm2.toFixed(0)} mm²`, data: other.strip } } : null,
    empty: turn ? "Every layer is read once this way is kept as a row." : anew ? "Ranked anew from the search; every layer is read when you ask for it." : "Four poses are being read layer by layer.",
  }, [row, other, board.document, taken, shown, matrixKey, !!turn, hover]);
  if (!ready) return <><Heading title="Which way up?" line="The pose depends on the size." /><NotYet plan={plan} fold="pose" /></>;
  return (
    <>
      <div className="flex items-start justify-between gap-4">
        <Heading title="Which way up?" line={data ? `${count(data.evaluated)} directions weighed${marked?.strokes?.length ? " for your marks" : ""}; ${data.candidates.length - wishes.pinned.length} that no other beats, every layer of each read, unheld.` : "Directions are weighed, then every layer of the best four is read."} />
        {data && <div role="radiogroup" aria-label="View" className="flex shrink-0 gap-1 pt-1">{(["board", "map"] as const).map((v) => <button key={v} type="button" role="radio" aria-checked={view === v} aria-pressed={view === v} className="quiet px-2.5" title="key M" onClick={() => put("view", v === "map" ? "map" : null)}>{v === "map" ? "Map" : "Board"}</button>)}</div>}
      </div>
      <Waiting of={board} what={data ? "Reading the layers of these" : "Finding poses"} />
      {data && view === "map" && <MapView data={data} ranked={ranked} shown={shown} hand={hand} said={said} priorities={priorities} onPriorities={setPriorities} waiting={!board.document} onPick={toHand} onPin={(i) => { setTurn(null); onOption(i); }} onHover={(i) => !turn && setHover(i)} onHand={() => row && setTurn(turnTo(row.down as Down))} />}
      {data && view === "board" && (
        <table className="board" aria-label="Poses">
          <thead><tr><th colSpan={2}>pose</th><th className="whitespace-nowrap">starts in<br />mid air</th><th>{marked?.strokes?.length ? <>scars by<br />marks, mm²</> : <>needs<br />support, mm²</>}</th><th>widest<br />section, mm²</th><th>sealed<br />ml</th><th>height<br />mm</th><th>time<br />h:min</th><th>risk %,<br />unheld</th><th /></tr></thead>
          <tbody>
            {data.candidates.map((c, i) => (
              <tr key={i} {...rowProps(i, shown, (o) => { setTurn(null); onOption(o); })}>
                <td className="w-[70px]"><img src={`/api/blobs/${c.picture_sha}`} alt="" width="56" height="56" /></td>
                <td style={{ textAlign: "left" }}>
                  <span className="block text-[15px] font-medium">{i + 1}&ensp;{poseName(c.down)} {i === data.recommended && <span className="ml-1 text-[12.5px] font-normal text-moss">recommended</span>}{i === taken && <span className="ml-1 text-[12.5px] font-normal text-indigo">taken</span>}{i >= data.candidates.length - wishes.pinned.length && <span className="ml-1 text-[12.5px] font-normal text-persimmon">by hand</span>}</span>
                  <span className="block text-[12.5px] leading-snug text-faded">{c.why}</span>
                </td>
                <td>{c.strip.islands.length}{c.strip.slight_islands > 0 && <span className="block whitespace-nowrap text-[11.5px] text-faded">{c.strip.slight_islands} slight</span>}</td><td>{(marked?.strokes?.length ? c.metrics.scar_area_mm2 : c.metrics.support_area_mm2).toFixed(0)}</td><td>{c.peak_area_mm2.toFixed(0)}</td><td>{(c.sealed_mm3 / 1000).toFixed(2)}</td><td>{c.metrics.height_mm.toFixed(1)}</td><td>{hm(c.numbers.time_s)}</td><td><ChanceBar chance={c.numbers.risk} /></td>
                <td className="w-[52px]">{i !== shown && <button type="button" className="text-[12.5px] text-indigo underline underline-offset-2" aria-pressed={beside === i} aria-label={`Lay pose ${i + 1} beside the one shown`} onClick={(e) => { e.stopPropagation(); put("beside", beside === i ? null : String(i)); }}>{beside === i ? "apart" : "beside"}</button>}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {data && <div className="sticky bottom-0 flex items-center justify-between gap-4 bg-cotton py-2">{turn ? <span className="flex gap-2"><button type="button" className="take" disabled={said ? !said.fits : true} onClick={keep}>Keep this way as a row</button><button type="button" className="quiet px-2.5" onClick={() => setTurn(null)}>Let go</button></span> : ranked ? <span className="flex items-center gap-2"><button type="button" className="take" onClick={() => setAsked({ ...asked, priorities })}>Read the layers of these four</button><button type="button" className="quiet px-2.5" onClick={() => setPriorities(wishes.priorities)}>As they were</button></span> : <span className="text-[13px] text-faded">{view === "map" ? "Click the map or turn the figure by hand; M goes back to the board." : "J and K walk the board, M opens the map, Enter takes the row shown. Risk is a prior."}</span>}<button type="button" className="take" disabled={!board.document || busy || !!turn || !!ranked} onClick={() => take(shown)}>Take pose {shown + 1}</button></div>}
    </>
  );
}
