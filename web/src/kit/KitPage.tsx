import { useQuery } from "@tanstack/react-query";
import { useEffect } from "react";
import { Link, useParams } from "react-router";
import { api, need, type Problem } from "../api/client";
import { TITLES } from "../folds/FoldBand";
import { Trouble } from "../folds/FigurePage";
import { Crumbs } from "../shell/Header";
import { count } from "../shell/format";
import { Assembly } from "../turntable/Assembly";

/** A kit: its parts together where the file places them, and where each part's plan stands. */
export function KitPage() {
  const { kit = "0" } = useParams();
  const held = useQuery({ queryKey: ["kit", Number(kit)], queryFn: () => need(api.GET("/api/kits/{number}", { params: { path: { number: Number(kit) } } })), refetchInterval: (q) => (q.state.data?.parts.some((p) => !p.preview_sha) ? 1500 : false) });
  useEffect(() => { if (held.data) document.title = `${held.data.name} · Tenugui`; }, [held.data]);
  if (held.error) return <Trouble problem={held.error as unknown as Problem} />;
  if (!held.data) return <p className="p-10 text-faded">Unpacking the kit</p>;
  const { name, parts, placed } = held.data;
  return (
    <>
      <Crumbs trail={[{ text: name }]} />
      <main className="grid min-h-0 flex-1 grid-cols-[minmax(300px,0.5fr)_minmax(0,0.5fr)] gap-8 px-8 py-5">
        <Assembly shas={parts.map((p) => p.preview_sha).filter((s): s is string => !!s)} label={`${name}, ${placed ? "assembled as the file places its parts" : "its parts side by side"}`} together={placed} />
        <div className="min-h-0 overflow-y-auto">
          <h1 className="text-[27px] leading-tight">{name}</h1>
          <p className="mb-3 text-faded">{parts.length} parts that belong together. {placed ? "They stand as the file places them." : "The file does not place them; they stand side by side."} The size of one is the size of all.</p>
          <ul>{parts.map((p) => (
            <li key={p.figure_id} className="border-b border-thread"><Link to={`/plan/${p.plan_id}/${p.next_fold ?? "proof"}`} className="flex items-baseline gap-4 py-2 hover:bg-paper"><span className="font-display text-[16px] text-indigo">{p.name}</span><span className="text-faded">{count(p.triangles)} triangles</span><span className="ml-auto">{p.next_fold ? `next: ${TITLES[p.next_fold]}` : "settled"}</span></Link></li>
          ))}</ul>
        </div>
      </main>
    </>
  );
}
