import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, need, type Problem, type Run } from "../api/client";
import type { ProofDoc } from "../api/documents";
import { useFold, usePlanRuns } from "../api/queries";
import { clock, day, hour, percent } from "../shell/format";
import { useView } from "../shell/view";
import type { FoldProps } from "./FigurePage";
import { Heading } from "./NotYet";
import { useStage } from "./board";

const RESULTS = ["good", "scarred", "part lost", "print lost"] as const;
const REMOVAL = ["fell off by themselves", "easy", "some force", "hard", "took surface with them"];

export function LogFold({ plan, show }: FoldProps) {
  const accepted = plan.folds.find((f) => f.name === "proof")!.state === "settled";
  const proof = useFold<ProofDoc>(plan, "proof", accepted);
  const runs = usePlanRuns(plan.id);
  const client = useQueryClient();
  const { fail, say } = useView();
  const [open, setOpen] = useState<number | null>(null);
  useStage(show, { strip: proof.document?.strip, matrix: proof.document?.matrix, supports: proof.document?.supports_sha, empty: "The ribbon of the accepted plan lies here." }, [proof.document]);
  const refresh = () => void client.invalidateQueries({ queryKey: ["runs"] });
  const start = useMutation({ mutationFn: () => need(api.POST("/api/plans/{number}/runs", { params: { path: { number: plan.id } }, body: {} })), onSuccess: (id) => { refresh(); setOpen(id as number); say({ text: "Run started. Write down what became of it when it is off the plate." }); }, onError: (e) => fail(e as unknown as Problem) });
  const list = runs.data ?? [];
  const ended = list.filter((r) => r.real_s);
  const ratio = ended.length ? Math.exp(ended.reduce((s, r) => s + Math.log(r.real_s! / r.planned_s), 0) / ended.length) : null;
  return (
    <>
      <Heading title="What became of it?" line={list.length ? `${list.length} run${list.length > 1 ? "s" : ""} of this plan${ratio ? `; they took ${ratio >= 1 ? `${((ratio - 1) * 100).toFixed(0)} % longer` : `${((1 - ratio) * 100).toFixed(0)} % less`} than planned on average of ${ended.length}` : ""}.` : "No run of this plan yet. Every outcome you log makes the next plan's numbers yours."} />
      <div className="mb-3 flex items-center gap-3">
        <button type="button" className="take px-6 py-3 text-[16px]" disabled={!accepted || start.isPending} onClick={() => start.mutate()}>Start a run now</button>
        {!accepted && <span className="text-[13.5px] text-faded">Accept the proof first; then a run can be started.</span>}
      </div>
      <ul className="space-y-2">
        {list.map((run) => (
          <li key={run.id} className="border border-thread bg-paper px-4 py-2.5">
            <div className="flex flex-wrap items-baseline gap-x-5">
              <span className="font-medium">{day(run.started_at)}, {hour(run.started_at)}</span>
              <span className="text-faded">{run.printer_name}, {run.material_name}</span>
              <span>planned {clock(run.planned_s)}, {run.planned_g.toFixed(0)} g, risk {percent(run.planned_risk)}</span>
              {run.result ? <span className={run.result === "good" ? "text-moss" : "text-persimmon"}>{run.result}{run.real_s ? `, ${clock(run.real_s)}` : ""}{run.failed_layer ? `, failed at layer ${run.failed_layer}` : ""}</span> : <span className="text-persimmon">outcome not logged</span>}
              <button type="button" className="quiet ml-auto" aria-expanded={open === run.id} onClick={() => setOpen(open === run.id ? null : run.id)}>{run.result ? "Correct" : "Log the outcome"}</button>
            </div>
            {run.note && open !== run.id && <p className="text-[13.5px] text-faded">{run.note}{run.removal ? ` Supports: ${REMOVAL[run.removal - 1]}.` : ""}</p>}
            {open === run.id && <OutcomeForm run={run} done={() => { refresh(); setOpen(null); say({ text: "Outcome logged." }); }} />}
          </li>
        ))}
      </ul>
    </>
  );
}

function OutcomeForm({ run, done }: { run: Run; done: () => void }) {
  const { fail } = useView();
  const [result, setResult] = useState(run.result ?? "good");
  const [hours, setHours] = useState(run.real_s ? (run.real_s / 3600).toFixed(2) : "");
  const [grams, setGrams] = useState(run.real_g ? run.real_g.toFixed(0) : "");
  const [layer, setLayer] = useState(run.failed_layer?.toString() ?? "");
  const [removal, setRemoval] = useState(run.removal ?? 2);
  const [note, setNote] = useState(run.note ?? "");
  const keep = useMutation({
    mutationFn: () => need(api.PUT("/api/runs/{number}/outcome", { params: { path: { number: run.id } }, body: { result: result as "good", real_s: hours ? Number(hours.replace(",", ".")) * 3600 : null, real_g: grams ? Number(grams.replace(",", ".")) : null, failed_layer: layer && result !== "good" ? Number(layer) : null, removal, note } })),
    onSuccess: done, onError: (e) => fail(e as unknown as Problem),
  });
  return (
    <form className="mt-2 space-y-3" onSubmit={(e) => { e.preventDefault(); keep.mutate(); }}>
      <div className="grid grid-cols-4 gap-2" role="radiogroup" aria-label="Result">
        {RESULTS.map((r) => <button key={r} type="button" role="radio" aria-checked={result === r} aria-pressed={result === r} className="quiet min-h-12 text-[16px]" onClick={() => setResult(r)}>{r}</button>)}
      </div>
      <div className="flex flex-wrap gap-3">
        <label><span className="block text-[13px] text-faded">Hours it took</span><input className="field w-28" inputMode="decimal" value={hours} onChange={(e) => setHours(e.target.value)} placeholder={(run.planned_s / 3600).toFixed(2)} /></label>
        <label><span className="block text-[13px] text-faded">Grams used</span><input className="field w-28" inputMode="decimal" value={grams} onChange={(e) => setGrams(e.target.value)} placeholder={run.planned_g.toFixed(0)} /></label>
        {result !== "good" && <label><span className="block text-[13px] text-faded">Failed at layer</span><input className="field w-28" inputMode="numeric" value={layer} onChange={(e) => setLayer(e.target.value)} /></label>}
        <label><span className="block text-[13px] text-faded">How the supports came off</span><select className="field" value={removal} onChange={(e) => setRemoval(Number(e.target.value))}>{REMOVAL.map((r, i) => <option key={r} value={i + 1}>{r}</option>)}</select></label>
      </div>
      <label className="block"><span className="block text-[13px] text-faded">Note</span><textarea className="field w-full" rows={2} value={note} onChange={(e) => setNote(e.target.value)} maxLength={2000} /></label>
      <button className="take px-6 py-3 text-[16px]" disabled={keep.isPending}>Keep this outcome</button>
    </form>
  );
}
