import { useState } from "react";
import type { Hazard, ProofDoc } from "../api/documents";
import { useCautions, useFold } from "../api/queries";
import { ChanceBar, Swatch } from "../patterns/Patterns";
import { clock, count, percent } from "../shell/format";
import type { FoldProps } from "./FigurePage";
import { Heading, isReady, NotYet } from "./NotYet";
import { Waiting } from "./Waiting";
import { useStage, useTake } from "./board";

export function ProofFold({ plan, show, onLayer, settled }: FoldProps) {
  const ready = isReady(plan, "proof");
  const proof = useFold<ProofDoc>(plan, "proof", ready);
  const { take, busy } = useTake(plan, "proof", "log", settled);
  const data = proof.document ?? proof.old;
  const accepted = plan.folds.find((f) => f.name === "proof")!.state === "settled";
  const [picked, setPicked] = useState<number | null>(null);
  const [wanted, setAll] = useState<boolean | null>(null);
  const hazard = picked == null ? null : data?.hazards[picked];
  const process = (plan.folds[0].choice as { process?: string } | null)?.process;
  const cautions = useCautions(process).data ?? [];
  useStage(show, { strip: data?.strip, matrix: data?.matrix, supports: data?.supports_sha, numbers: accepted ? null : data?.numbers, stale: !!data && !proof.document, pin: hazard && !["mishap", "open-surface"].includes(hazard.code) ? { x: hazard.x_mm, y: hazard.y_mm, z: hazard.z_mm, text: hazard.message } : null, empty: "Every layer is being read." }, [data, proof.document, hazard, accepted]);
  if (!ready) return <><Heading title="Will it print?" line="The proof reads the whole plan." /><NotYet plan={plan} fold="proof" /></>;
  const pick = (h: Hazard, i: number) => { setPicked(i); onLayer(Math.min(h.layer, (data?.layers.count ?? 1) - 1)); };
  // With little that weighs, the small ones are worth a look too.
  const all = wanted ?? (data ? data.hazards.filter((h) => h.severity !== "notice").length < 3 : false);
  const rows = data ? data.hazards.map((h, i) => ({ h, i })).filter(({ h }) => all || h.severity !== "notice") : [];
  const link = (kind: string) => `/api/plans/${plan.id}/files/${kind}`;
  return (
    <>
      <Heading title="Will it print?" line={data ? `All ${count(data.layers.count)} layers read: ${data.islands.length || "no"} island${data.islands.length === 1 ? "" : "s"} left, ${data.sealed.length || "no"} sealed space${data.sealed.length === 1 ? "" : "s"}, ${data.trapped.length || "no"} trapped. ${clock(data.numbers.time_s)}${data.time_is === "formula" ? "" : " (rough)"}, risk ${percent(data.risk)} (prior).` : "Every layer of the whole plan is read."} />
      <Waiting of={proof} what="Proving every layer" />
      {data && (
        <>
          <div className="flex flex-wrap items-center gap-2">
            <button type="button" className="take" disabled={!proof.document || busy} onClick={() => take(0)}>{accepted ? "Accepted. Accept again" : "Accept this plan"}</button>
            <a className={`quiet ${proof.document ? "" : "pointer-events-none opacity-50"}`} href={link("3mf")} download>3MF</a>
            <a className={`quiet ${proof.document ? "" : "pointer-events-none opacity-50"}`} href={link("stl")} download>STL</a>
            <a className={`quiet ${proof.document ? "" : "pointer-events-none opacity-50"}`} href={link("pdf")} download>Run sheet, PDF</a>
            <label className="ml-auto flex items-center gap-2 text-[13px] text-faded"><input type="checkbox" checked={all} onChange={(e) => setAll(e.target.checked)} />small ones too ({data.hazards.filter((h) => h.severity === "notice").length})</label>
          </div>
          <table className="board mt-2" aria-label="Risk ledger">
            <thead><tr><th colSpan={2}>hazard, costliest first</th><th>layer</th><th>has / needs</th><th>would cost</th><th>chance %</th></tr></thead>
            <tbody>
              {rows.map(({ h, i }) => (
                <tr key={i} aria-selected={i === picked} tabIndex={0} onClick={() => pick(h, i)} onKeyDown={(e) => e.key === "Enter" && pick(h, i)}>
                  <td className="w-9"><Swatch code={h.code} /></td>
                  <td style={{ textAlign: "left" }}><span className="block text-[14px]">{h.message}</span><span className="block text-[12.5px] text-faded">{h.remedy}</span></td>
                  <td className="text-[14px]">{count(h.layer + 1)}</td><td className="whitespace-nowrap text-[13px]">{h.has.toPrecision(2)} / {h.needs.toPrecision(2)}<span className="block text-[11.5px] text-faded">{h.unit}</span></td><td className="whitespace-nowrap text-[13px]">{h.cost}</td><td><ChanceBar chance={h.chance} /></td>
                </tr>
              ))}
            </tbody>
          </table>
          {!rows.length && <p className="mt-3 text-moss">No hazard worth a line. {data.hazards.length ? "The small ones can be shown above." : ""}</p>}
          <details className="mt-3 text-[13px]"><summary className="cursor-pointer text-indigo">Before you start: {cautions.length} cautions</summary><ul className="mt-1 list-disc space-y-0.5 pl-5">{cautions.map((c) => <li key={c}>{c}</li>)}</ul></details>
        </>
      )}
    </>
  );
}
