import { useQuery } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useState } from "react";
import { Matrix4, Vector3 } from "three";
import { api, need, type Problem } from "../api/client";
import type { Mend, PoseBoard, Triple, Way, Weak } from "../api/documents";
import { useFold, useMaterials, usePlanChange, usePrinters } from "../api/queries";
import { count, mm } from "../shell/format";
import { useView } from "../shell/view";
import type { Pin } from "../turntable/Turntable";
import type { FoldProps } from "./FigurePage";
import { Heading } from "./NotYet";
import { useStage } from "./board";
import { KitBand } from "./size/KitBand";
import { Fields, type Marks } from "./size/Fields";
import { Ruler } from "./size/Ruler";
import { Verdict, verdict } from "./size/Verdict";
import { WeakParts } from "./size/WeakParts";

const UNIT = { mm: 1, cm: 10, m: 1000, in: 25.4 };
interface Chosen { factor: number; height_mm: number; printer_id: number; material_id: number; mesh?: Way; eye_z?: number | null; crown_z?: number | null }

/** A length against the layer that the printer starts from. */
function inLayers(length: number, layer: number): string {
  const share = length / layer;
  return share < 0.01 ? `less than a hundredth of a ${layer} mm layer` : `${share < 1 ? `${(100 * share).toFixed(0)} % of` : `${share.toFixed(1)} times`} a ${layer} mm layer`;
}

export function SizeFold({ plan, intake, show, settled }: FoldProps) {
  const chosen = plan.folds[0].choice as unknown as Chosen | null;
  const printers = usePrinters().data ?? [];
  const materials = useMaterials().data ?? [];
  const { fail } = useView();
  const [factor, setFactor] = useState<number | null>(null);
  const [printerId, setPrinterId] = useState(0);
  const [materialId, setMaterialId] = useState(0);
  const [way, setWay] = useState<Way>("original");
  const [mend, setMend] = useState<Mend | null>(null);
  const [weak, setWeak] = useState<Weak | null>(null);
  const [marks, setMarks] = useState<Marks>({ eye: null, crown: null });
  const [marking, setMarking] = useState<keyof Marks | null>(null);
  const [pin, setPin] = useState<Pin | null>(null);
  const printer = printers.find((p) => p.id === printerId) ?? printers[0];
  const fitting = materials.filter((m) => m.process === printer?.process);
  const material = fitting.find((m) => m.id === materialId) ?? fitting[0];
  useEffect(() => {
    if (chosen) {
      setFactor(chosen.factor);
      setPrinterId(chosen.printer_id);
      setMaterialId(chosen.material_id);
      setWay(chosen.mesh ?? "original");
      setMarks({ eye: chosen.eye_z ?? null, crown: chosen.crown_z ?? null });
    } else if (intake) setFactor(plan.unit ? 1 : UNIT[intake.unit_guess]);
  }, [chosen?.factor, chosen?.printer_id, chosen?.mesh, intake]);
  const posed = plan.folds.find((f) => f.name === "pose")!;
  const wishes = (posed.choice as { wishes?: object } | null)?.wishes;
  const board = useFold<PoseBoard>(plan, "pose", posed.state === "settled", wishes && JSON.stringify(wishes)).document;
  const row = board?.candidates[(posed.choice as { option?: number } | null)?.option ?? 0];
  const k = factor;
  // The turntable shows the figure at the size that is being typed, on its own feet.
  const matrix = useMemo(() => (k && intake ? [k, 0, 0, 0, 0, k, 0, 0, 0, 0, k, 0, -k * (intake.lower[0] + intake.size_mm[0] / 2), -k * (intake.lower[1] + intake.size_mm[1] / 2), -k * intake.lower[2], 1] : undefined), [k, intake]);
  const pick = useCallback((p: Vector3) => { setMarks((m) => ({ ...m, [marking!]: p.z })); setMarking(null); }, [marking]);
  const point = (place: Triple, text: string) => {
    const p = new Vector3(...place).applyMatrix4(new Matrix4().fromArray(matrix ?? new Matrix4().toArray()));
    setPin({ x: p.x, y: p.y, z: p.z, text, face: true });
  };
  const ribbons = mend && (mend.steps.length || mend.taken_sha) && k ? { above: { title: "the original", layer_height_mm: mend.before.layer_height_mm * k, area_mm2: mend.before.area_mm2.map((a) => a * k * k), base: mend.before.base * k }, below: { title: "the mended copy", layer_height_mm: mend.after.layer_height_mm * k, area_mm2: mend.after.area_mm2.map((a) => a * k * k), base: mend.after.base * k } } : null;
  useStage(show, {
    matrix, pin, ribbons, sha: mend?.preview_sha ?? (way === "original" ? intake?.preview_sha : undefined), overlay: mend?.taken_sha ?? mend?.changed_sha, onPick: marking ? pick : null,
    thick: weak ? { sha: weak.thickness_sha, limits: [weak.limits.sheet, weak.limits.rod] } : null, strip: row?.strip, empty: "Once size, printer and pose are settled, the figure's ribbon lies here.",
  }, [row, matrix, pin, mend, weak, marking, way, intake]);
  const change = usePlanChange(plan.id, (body: { factor: number; printer_id: number; material_id: number; mesh: Way; eye_z: number | null; crown_z: number | null; reason: string }) => need(api.POST("/api/plans/{number}/size", { params: { path: { number: plan.id } }, body })));
  const fits = useQuery({ queryKey: ["fits", plan.figure_id], queryFn: () => need(api.GET("/api/figures/{number}/fits", { params: { path: { number: plan.figure_id } } })), enabled: !!intake, staleTime: Infinity }).data;
  const own = fits?.find((f) => f.printer_id === printer?.id);
  const room = own?.factor;
  const layer = own?.layer_mm;
  const tooLarge = room != null && k != null && k > room * 1.0005;
  const ready = !!k && !!printer && !!material && (way === "original" || !!mend);
  const settle = (event: React.FormEvent) => {
    event.preventDefault();
    if (!ready || tooLarge) return;
    change.mutate({ factor: k, printer_id: printer.id, material_id: material.id, mesh: way, eye_z: marks.eye, crown_z: marks.crown, reason: "" }, { onSuccess: () => settled("marks"), onError: (e) => fail(e as unknown as Problem) });
  };
  if (!intake || !k) return <Heading title="How tall?" line="The file is being examined." />;
  // A copy without its supports is not as tall as the file.
  const measured = mend ? { ...intake, size_mm: mend.size_mm, lower: mend.lower } : intake;
  const size = measured.size_mm.map((v) => v * k);
  const unit = intake.unit_guess === "in" ? "inches" : intake.unit_guess;
  return (
    <form onSubmit={settle}>
      <Heading title="How tall?" line={`${plan.file_name}: ${count(intake.triangles)} triangles in ${count(intake.shells)} shell${intake.shells > 1 ? "s" : ""}, ${intake.watertight ? "closed all round" : "not closed"}${plan.unit ? ", in mm as the file says" : ""}. `} said={mend?.watertight ? { good: true, text: "The mended copy is closed all round." } : verdict(intake)} />
      {plan.thinned && <p className="-mt-1 mb-2 max-w-[640px] border-l-4 border-moss bg-paper px-3 py-1.5 text-[13px]">A thinner copy: {count(plan.thinned.before as number)} triangles came in. Its surface lies at most {mm((plan.thinned.deviation as number) * k, 4)} mm from the file's at this size, {mm((plan.thinned.usual as number) * k, 4)} mm for 95 of 100 points{layer ? `: ${inLayers((plan.thinned.deviation as number) * k, layer)}` : ""}. The file is kept.</p>}
      {plan.kit_id != null && <KitBand kit={plan.kit_id} figure={plan.figure_id} />}
      <div className="grid grid-cols-[minmax(0,1fr)_250px] gap-x-6">
        <div className="space-y-2.5">
          <Fields intake={measured} factor={k} onFactor={setFactor} marks={marks} marking={marking} onMarking={setMarking} />
          {!plan.unit && intake.unit_guess !== "mm" && (
            <p className="max-w-[380px] border-l-4 border-persimmon bg-paper px-3 py-1.5 text-[13px]">A guess: the file was modelled in {unit}. Heights: {(["mm", "cm", "in", "m"] as const).map((u) => <button key={u} type="button" className={`mr-2 underline ${Math.abs(k - UNIT[u]) < 1e-6 ? "font-semibold" : ""}`} onClick={() => setFactor(UNIT[u])}>{mm(intake.size_mm[2] * UNIT[u], 1)} as {u}</button>)}</p>
          )}
          <div className="flex gap-3">
            <label className="block"><span className="block text-[12.5px] text-faded">Printer</span>
              <select className="field w-36" value={printer?.id ?? ""} onChange={(e) => setPrinterId(Number(e.target.value))}>{printers.map((p) => <option key={p.id} value={p.id}>{p.name}, {p.process}</option>)}</select>
            </label>
            <label className="block"><span className="block text-[12.5px] text-faded">Material</span>
              <select className="field w-36" value={material?.id ?? ""} onChange={(e) => setMaterialId(Number(e.target.value))}>{fitting.map((m) => <option key={m.id} value={m.id}>{m.name}</option>)}</select>
            </label>
          </div>
          {fits && <p className="text-[13px]">{printers.map((p) => { const most = fits.find((f) => f.printer_id === p.id)!.factor; const fine = k <= most * 1.0005; return <span key={p.id} className={`mr-4 ${fine ? "text-moss" : "text-persimmon"}`}>{fine ? "fits" : "too large for"} {p.name}, to {mm(most * intake.size_mm[2], 0)}</span>; })}<span className="text-faded">in some pose</span></p>}
          <button className="take" disabled={!ready || tooLarge || change.isPending}>{chosen ? "Take this size again" : "Take this size"}{way !== "original" ? `, the ${way} copy` : ""}</button>
        </div>
        <Ruler intake={intake} size={size} />
      </div>
      <div className="mt-3">
        <Verdict figure={plan.figure_id} intake={intake} factor={k} way={way} onWay={(w) => { setWay(w); setPin(null); }} mend={mend} onMend={setMend} onPlace={point} />
        {chosen && printer && (way === "original" || mend) && <WeakParts figure={plan.figure_id} printer={chosen.printer_id} factor={chosen.factor} way={chosen.mesh ?? "original"} tall={size[2]} onWeak={setWeak} onPlace={(w, text) => point([w.x / chosen.factor, w.y / chosen.factor, w.z / chosen.factor], text)} onCure={(s) => setFactor(chosen.factor * s)} />}
      </div>
    </form>
  );
}
