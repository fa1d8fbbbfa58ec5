import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState, type DragEvent } from "react";
import { Link } from "react-router";
import { api, need, type FigureRow, type Problem, type Run } from "../api/client";
import type { Numbers } from "../api/documents";
import { useFigures, useLog, useMaterials } from "../api/queries";
import { TITLES } from "../folds/FoldBand";
import { clock, count, day, hour, percent } from "../shell/format";
import { useView } from "../shell/view";
import { dropped, useBringIn } from "./bringIn";

const QUESTION: Record<string, string> = { size: "How tall?", marks: "Which surfaces matter?", pose: "Which way up?", supports: "How is it held?", layers: "How thin a layer?", proof: "Will it print?", log: "What became of it?" };

export function Bench() {
  const figures = useFigures();
  const log = useLog().data ?? [];
  const materials = useMaterials().data ?? [];
  const { sending, bring, offer, leave } = useBringIn();
  const [over, setOver] = useState(false);
  const pick = useRef<HTMLInputElement>(null);
  useEffect(() => { document.title = "Bench · Tenugui"; }, []);
  const rows = figures.data ?? [];
  const waiting = rows.filter((f) => f.next_fold && f.next_fold !== "log");
  const ready = rows.filter((f) => f.next_fold === "log");
  const now = Date.now();
  const ends = (r: Run) => new Date(r.started_at).getTime() + r.planned_s * 1000;
  const open = log.filter((r) => !r.result);
  const stop = (e: DragEvent) => { e.preventDefault(); e.stopPropagation(); };
  return (
    <main className={`min-h-0 flex-1 overflow-y-auto px-8 py-5 ${over ? "bg-folded" : ""}`} onDragEnter={(e) => { stop(e); setOver(true); }} onDragOver={stop} onDragLeave={(e) => { stop(e); if (e.currentTarget === e.target) setOver(false); }} onDrop={(e) => { stop(e); setOver(false); void dropped(e.dataTransfer).then(bring); }}>
      <div className="grid grid-cols-[minmax(0,1fr)_300px] gap-10">
        <section aria-labelledby="needs">
          <div className="mb-3 flex items-end justify-between gap-6">
            <div><h1 id="needs" className="text-[27px] leading-tight">On the bench</h1><p className="text-faded">{figures.isLoading ? "Looking at the bench" : rows.length ? `${waiting.length} figure${waiting.length === 1 ? " needs" : "s need"} a decision, ${ready.length} ready to print or printed.` : "Nothing lies here yet. Drop a figure's file anywhere on this page."}</p></div>
            <div>
              <input ref={pick} id="pick-file" type="file" accept=".stl,.obj,.ply,.3mf,.glb,.gltf,.zip" multiple className="sr-only" aria-label="Figure files" onChange={(e) => { if (e.target.files) void bring([{ folder: null, files: [...e.target.files] }]); e.target.value = ""; }} />
              <button type="button" className="take" onClick={() => pick.current?.click()}>Bring in a figure</button>
            </div>
          </div>
          {over && <p className="mb-3 border-2 border-dashed border-indigo px-4 py-3 text-indigo">Let go: STL, OBJ, PLY, 3MF, glTF or ZIP. A folder becomes a kit.</p>}
          {sending && (
            <div role="status" className="mb-3 border border-thread bg-paper px-4 py-2.5"><div className="flex justify-between"><span>{sending.share < 1 ? `Bringing in ${sending.name}` : `Reading ${sending.name}`}</span><button type="button" className="text-indigo underline" onClick={() => sending.stop.abort()}>Cancel</button></div><div className="mt-1.5 h-2.5 border border-thread"><div className="weaving h-full" style={{ width: `${Math.max(3, sending.share * 100)}%` }} /></div></div>
          )}
          {offer && (
            <div role="alert" className="mb-3 flex items-center gap-4 border border-thread border-l-4 border-l-persimmon bg-paper px-4 py-2.5"><p className="min-w-0 flex-1">{offer.file.name} holds more triangles than can be worked on. <span className="text-faded">{offer.what} A thinner copy keeps the surface; how far it moved is told in mm on its fold Size.</span></p><button type="button" className="take" onClick={offer.take}>Bring in a thinner copy</button><button type="button" className="text-indigo underline" onClick={leave}>Leave it</button></div>
          )}
          <ul className="grid grid-cols-2 gap-3 xl:grid-cols-3">{rows.map((f) => <Card key={f.id} figure={f} />)}</ul>
        </section>
        <aside className="space-y-7">
          <section aria-labelledby="printing">
            <h2 id="printing" className="mb-1 text-[19px]">Printing</h2>
            {!open.length && <p className="text-[13.5px] text-faded">No machine is running. A run starts in a plan's fold Log.</p>}
            <ul>{open.map((r) => <li key={r.id} className="border-b border-thread py-1.5"><Link to={`/plan/${r.plan_id}/log`} className="flex justify-between gap-3"><span>{r.figure_name}</span><span className={ends(r) < now ? "text-persimmon" : "text-faded"}>{ends(r) < now ? "log the outcome" : `until ${hour(new Date(ends(r)).toISOString())}`}</span></Link></li>)}</ul>
          </section>
          <section aria-labelledby="stock">
            <h2 id="stock" className="mb-1 text-[19px]">On the shelf</h2>
            <ul>{materials.map((m) => { const used = log.filter((r) => r.material_name === m.name).reduce((s, r) => s + (r.real_g ?? r.planned_g), 0); const left = m.stock_g == null ? null : Math.max(0, m.stock_g - used); return (
              <li key={m.id} className="flex items-baseline justify-between gap-3 border-b border-thread py-1.5"><span>{m.name}<span className="ml-2 text-[12.5px] text-faded">{m.process}</span></span><span className={left != null && left < 150 ? "text-persimmon" : "text-faded"}>{left == null ? "not counted" : `${left.toFixed(0)} g left`}</span></li>); })}</ul>
          </section>
          <section aria-labelledby="lately">
            <h2 id="lately" className="mb-1 text-[19px]">Lately</h2>
            <ul>{log.filter((r) => r.result).slice(0, 6).map((r) => <li key={r.id} className="border-b border-thread py-1.5"><Link to={`/plan/${r.plan_id}/log`} className="flex justify-between gap-3"><span><span className="inline-block w-[86px] text-faded">{day(r.started_at)}</span>{r.figure_name}</span><span className={r.result === "good" ? "text-moss" : "text-persimmon"}>{r.result}</span></Link></li>)}</ul>
            <Link to="/log" className="mt-1.5 inline-block text-[13.5px] text-indigo underline underline-offset-2">The whole log</Link>
          </section>
        </aside>
      </div>
    </main>
  );
}

function Card({ figure: f }: { figure: FigureRow }) {
  const { say, fail } = useView();
  const client = useQueryClient();
  const numbers = f.numbers as unknown as Numbers | null;
  const again = () => void client.invalidateQueries({ queryKey: ["figures"] });
  const away = async () => {
    try {
      await need(api.DELETE("/api/figures/{number}", { params: { path: { number: f.id } } }));
      again();
      say({ text: `${f.name} is put away.`, action: { label: "Put it back", run: () => void need(api.POST("/api/figures/{number}/back", { params: { path: { number: f.id } } })).then(again) } });
    } catch (p) {
      fail(p as Problem);
    }
  };
  return (
    <li className="relative border border-thread bg-paper">
      <Link to={`/plan/${f.plan_id}/${f.next_fold ?? "proof"}`} className="flex h-[132px]">
        <span className="flex w-[104px] shrink-0 items-center justify-center bg-folded">{f.picture ? <img src={`/api/blobs/${f.picture}`} alt="" className="max-h-[122px] max-w-[96px] object-contain" /> : <span className="px-2 text-center text-[12px] text-faded">being examined</span>}</span>
        <span className="flex min-w-0 flex-1 flex-col px-3 py-2">
          <span className="truncate pr-3 font-display text-[16px] leading-tight text-indigo" title={f.name}>{f.name}</span>
          <span className="truncate text-[12.5px] text-faded">{f.kit_name ? `part of ${f.kit_name}` : `${count(f.triangles)} triangles`}</span>
          {numbers ? <span className="mt-1.5 text-[13px] leading-snug">{clock(numbers.time_s)}, {numbers.volume_ml.toFixed(0)} ml, {numbers.unheld ? "not held yet" : `risk ${percent(numbers.risk)}`}</span> : <span className="mt-1.5 text-[13px] text-faded">not planned yet</span>}
          <span className={`mt-auto text-[13.5px] ${f.stale ? "text-persimmon" : "text-indigo"}`}>{f.stale ? "stale: " : ""}{QUESTION[f.next_fold ?? "log"]} <span className="text-[12px] text-faded">{TITLES[f.next_fold ?? "log"]}</span></span>
        </span>
      </Link>
      <button type="button" aria-label={`Put ${f.name} away`} title="Put away" className="absolute right-1 top-0.5 px-1.5 text-[16px] leading-none text-faded hover:text-ink" onClick={() => void away()}>×</button>
    </li>
  );
}
