import { useEffect, useMemo, useState } from "react";
import { api, need, type Problem } from "../api/client";
import type { PoseBoard } from "../api/documents";
import { useFold, useMaterials, usePlanChange, usePrinters } from "../api/queries";
import { count, mm } from "../shell/format";
import { useView } from "../shell/view";
import type { FoldProps } from "./FigurePage";
import { Heading } from "./NotYet";
import { useStage } from "./board";

const COMMON = [28, 32, 54, 75, 100];
const UNIT = { mm: 1, cm: 10, m: 1000, in: 25.4 };

export function SizeFold({ plan, intake, show, settled }: FoldProps) {
  const chosen = plan.folds[0].choice as { height_mm: number; printer_id: number; material_id: number } | null;
  const printers = usePrinters().data ?? [];
  const materials = useMaterials().data ?? [];
  const { fail } = useView();
  const [text, setText] = useState("");
  const [printerId, setPrinterId] = useState(0);
  const [materialId, setMaterialId] = useState(0);
  const printer = printers.find((p) => p.id === printerId) ?? printers[0];
  const fitting = materials.filter((m) => m.process === printer?.process);
  const material = fitting.find((m) => m.id === materialId) ?? fitting[0];
  useEffect(() => {
    if (chosen) {
      setText(chosen.height_mm.toFixed(1));
      setPrinterId(chosen.printer_id);
      setMaterialId(chosen.material_id);
    } else if (intake) setText((intake.size_mm[2] * UNIT[intake.unit_guess]).toFixed(1));
  }, [chosen?.height_mm, chosen?.printer_id, intake]);
  const posed = plan.folds.find((f) => f.name === "pose")!;
  const board = useFold<PoseBoard>(plan, "pose", posed.state === "settled").document;
  const row = board?.candidates[(posed.choice as { option?: number } | null)?.option ?? 0];
  const tall = Number(text.replace(",", "."));
  const k = intake && tall > 0.5 && tall <= 2000 ? tall / intake.size_mm[2] : null;
  // The turntable shows the figure at the size that is being typed, on its own feet.
  const matrix = k && intake ? [k, 0, 0, 0, 0, k, 0, 0, 0, 0, k, 0, -k * (intake.lower[0] + intake.size_mm[0] / 2), -k * (intake.lower[1] + intake.size_mm[1] / 2), -k * intake.lower[2], 1] : undefined;
  useStage(show, { matrix, strip: row?.strip, empty: "Once size, printer and pose are settled, the figure's ribbon lies here." }, [row, k]);
  const change = usePlanChange(plan.id, (body: { height_mm: number; printer_id: number; material_id: number; reason: string }) => need(api.POST("/api/plans/{number}/size", { params: { path: { number: plan.id } }, body })));
  const height = Number(text.replace(",", "."));
  const sound = Number.isFinite(height) && height > 0.5 && height <= 2000;
  const factor = intake && sound ? height / intake.size_mm[2] : null;
  const size = useMemo(() => (intake && factor ? intake.size_mm.map((v) => v * factor) : null), [intake, factor]);
  const build = printer?.spec.build_mm as number[] | undefined;
  const fits = size && build ? [...size].sort((a, b) => a - b).every((v, i) => v <= [...build].sort((a, b) => a - b)[i]) : null;
  const settle = (event: React.FormEvent) => {
    event.preventDefault();
    if (!sound || !printer || !material) return;
    change.mutate({ height_mm: height, printer_id: printer.id, material_id: material.id, reason: "" }, { onSuccess: () => settled("pose"), onError: (e) => fail(e as unknown as Problem) });
  };
  if (!intake) return <Heading title="How tall?" line="The file is being examined." />;
  return (
    <form onSubmit={settle}>
      <Heading title="How tall?" line={`${plan.file_name}: ${count(intake.triangles)} triangles in ${count(intake.shells)} shell${intake.shells > 1 ? "s" : ""}, ${intake.watertight ? "closed all round" : "not closed"}.`} />
      <div className="grid grid-cols-[auto_1fr] gap-x-8">
        <div className="space-y-3">
          <label className="block"><span className="block text-[13px] text-faded">Height of the whole figure, mm</span>
            <input className="field w-36 font-display text-[22px] text-indigo" inputMode="decimal" value={text} onChange={(e) => setText(e.target.value)} aria-invalid={!sound} aria-describedby="height-note" />
          </label>
          <p id="height-note" className={`text-[13px] ${sound ? "text-faded" : "text-persimmon"}`}>{!sound ? "Give a number from 0.5 to 2000." : factor ? `${(factor * 100).toFixed(factor < 10 ? 1 : 0)} % of the file's numbers, ${mm(size![0], 1)} wide, ${mm(size![1], 1)} deep` : ""}</p>
          <div className="flex flex-wrap gap-1.5" role="group" aria-label="Common heights">
            {COMMON.map((h) => <button key={h} type="button" className="quiet px-2.5" aria-pressed={Math.abs(height - h) < 0.05} onClick={() => setText(h.toFixed(1))}>{h}</button>)}
            <button type="button" className="quiet px-2.5" onClick={() => setText(intake.size_mm[2].toFixed(1))}>as in the file</button>
          </div>
          {intake.unit_guess !== "mm" && (
            <p className="max-w-[300px] border-l-4 border-persimmon bg-paper px-3 py-2 text-[13px]">A guess: the file was modelled in {intake.unit_guess === "in" ? "inches" : intake.unit_guess}. As millimetres it would be {mm(intake.size_mm[2], 2)} tall, as {intake.unit_guess === "in" ? "inches" : intake.unit_guess} {mm(intake.size_mm[2] * UNIT[intake.unit_guess], 1)}.</p>
          )}
          <div className="flex gap-3">
            <label className="block"><span className="block text-[13px] text-faded">Printer</span>
              <select className="field w-40" value={printer?.id ?? ""} onChange={(e) => setPrinterId(Number(e.target.value))}>{printers.map((p) => <option key={p.id} value={p.id}>{p.name}, {p.process}</option>)}</select>
            </label>
            <label className="block"><span className="block text-[13px] text-faded">Material</span>
              <select className="field w-40" value={material?.id ?? ""} onChange={(e) => setMaterialId(Number(e.target.value))}>{fitting.map((m) => <option key={m.id} value={m.id}>{m.name}</option>)}</select>
            </label>
          </div>
          {fits === false && build && <p className="text-[13px] text-persimmon">Longer than {printer!.name} builds ({build.map((v) => v.toFixed(0)).join(" x ")} mm), whichever way it lies.</p>}
          {fits && build && <p className="text-[13px] text-moss">Fits {printer!.name}: {build.map((v) => v.toFixed(0)).join(" x ")} mm.</p>}
          <button className="take" disabled={!sound || !printer || !material || change.isPending || fits === false}>{chosen ? "Take this size again" : "Take this size"}</button>
        </div>
        {size && <Ruler intake={intake} size={size} />}
      </div>
      <h2 className="mb-1 mt-4 text-[17px]">What the file brought with it</h2>
      {intake.findings.length === 0 && <p className="text-moss">Nothing is wrong with it.</p>}
      <ul className="space-y-1">
        {intake.findings.map((f) => (
          <li key={f.code} className="flex gap-3"><span className={`w-16 shrink-0 text-right text-[13px] ${f.severity === "warning" ? "text-persimmon" : "text-faded"}`}>{count(f.count)}</span><span>{f.message}</span></li>
        ))}
      </ul>
    </form>
  );
}

/** The figure's outline beside the common sizes, to one scale. */
function Ruler({ intake, size }: { intake: { silhouette_sha: string; size_mm: number[] }; size: number[] }) {
  const tall = Math.max(size[2], 32) * 1.12;
  const high = 236;
  const k = high / tall;
  const pixel = 1.04 * Math.max(size[0] / 220, size[2] / 260);
  const width = 220 * pixel * k;
  const w = 330;
  return (
    <svg width={w} height={high + 22} role="img" aria-label={`Outline ${size[2].toFixed(0)} mm tall beside the sizes 28, 32, 54 and 75 mm`} className="self-start">
      {COMMON.filter((h) => h <= tall).map((h) => (
        <g key={h} transform={`translate(0 ${high - h * k})`}><line x2={w} stroke="var(--thread)" strokeDasharray="2 4" /><text x={w} y="-3" textAnchor="end" fontSize="11" fill="var(--faded)">{h} mm</text></g>
      ))}
      <line x2={w} y1={high} y2={high} stroke="var(--clay)" />
      <image href={`/api/blobs/${intake.silhouette_sha}`} x={14} width={width} height={260 * pixel * k} y={high - (size[2] * k) / 2 - (260 * pixel * k) / 2} preserveAspectRatio="none" />
      <g transform={`translate(${Math.min(w - 60, 30 + (width + size[0] * k) / 2)} 0)`} stroke="var(--persimmon)"><line y1={high} y2={high - size[2] * k} /><line x1="-4" x2="4" y1={high} y2={high} /><line x1="-4" x2="4" y1={high - size[2] * k} y2={high - size[2] * k} /></g>
      <text x={Math.min(w - 54, 36 + (width + size[0] * k) / 2)} y={high - (size[2] * k) / 2} fontSize="13" fill="var(--persimmon)">{size[2].toFixed(1)}</text>
      <text y={high + 16} fontSize="11" fill="var(--faded)">outline from the front, to scale</text>
    </svg>
  );
}
