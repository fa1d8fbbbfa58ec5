import { useState } from "react";
import type { Intake } from "../../api/documents";
import { mm } from "../../shell/format";
import { COMMON } from "./Ruler";

export interface Marks { eye: number | null; crown: number | null }
interface Props { intake: Intake; factor: number; onFactor: (factor: number) => void; marks: Marks; marking: keyof Marks | null; onMarking: (mark: keyof Marks | null) => void }

const parse = (text: string) => Number(text.trim().replace(",", "."));
const sound = (factor: number, intake: Intake) => factor * intake.size_mm[2] > 0.5 && factor * intake.size_mm[2] <= 2000;

/** A number that follows the others unless it is being typed in. */
function Linked({ label, value, digits, unit, onValue, big, open }: { label: string; value: number | null; digits: number; unit: string; onValue: (v: number) => boolean; big?: boolean; open?: boolean }) {
  const [typed, setTyped] = useState<string | null>(null);
  const [wrong, setWrong] = useState(false);
  const shown = typed ?? (value == null ? "" : value.toFixed(digits));
  return (
    <label className="block">
      <span className="block text-[12.5px] text-faded">{label}</span>
      <span className="flex items-baseline gap-1">
        <input className={`field min-w-0 ${big ? "w-28 font-display text-[22px] text-indigo" : "w-[74px]"} ${wrong ? "border-persimmon" : ""}`} inputMode="decimal" value={shown} disabled={value == null && !open} aria-invalid={wrong}
          onFocus={(e) => e.target.select()} onBlur={() => { setTyped(null); setWrong(false); }}
          onChange={(e) => { setTyped(e.target.value); setWrong(!onValue(parse(e.target.value))); }} />
        <span className="text-[12.5px] text-faded">{unit}</span>
      </span>
    </label>
  );
}

/** Every way to say how large: each number follows the others. */
export function Fields({ intake, factor, onFactor, marks, marking, onMarking }: Props) {
  const [modelled, setModelled] = useState<number | null>(null);
  const tall = intake.size_mm[2];
  const take = (k: number) => { if (!Number.isFinite(k) || !sound(k, intake)) return false; onFactor(k); return true; };
  const above = (z: number | null) => (z == null ? null : z - intake.lower[2]);
  const eye = above(marks.eye);
  const crown = above(marks.crown);
  const ratio = modelled == null ? null : modelled / factor;
  return (
    <div className="space-y-2.5">
      <Linked big label="Height of the whole figure, mm" value={factor * tall} digits={1} unit="mm" onValue={(v) => take(v / tall)} />
      <p className="text-[12.5px] text-faded">{mm(factor * intake.size_mm[0], 1)} wide, {mm(factor * intake.size_mm[1], 1)} deep</p>
      <div className="flex flex-wrap gap-1.5" role="group" aria-label="Common heights">
        {COMMON.map((h) => <button key={h} type="button" className="quiet px-2" aria-pressed={Math.abs(factor * tall - h) < 0.05} onClick={() => take(h / tall)}>{h}</button>)}
        <button type="button" className="quiet px-2" aria-pressed={Math.abs(factor - 1) < 1e-6} onClick={() => take(1)}>as in the file</button>
      </div>
      <div className="flex items-end gap-3">
        {(["eye", "crown"] as const).map((mark) => {
          const z = mark === "eye" ? eye : crown;
          return (
            <div key={mark} className="flex items-end gap-1">
              <Linked label={`To the ${mark}`} value={z == null ? null : factor * z} digits={1} unit="mm" onValue={(v) => (z ? take(v / z) : false)} />
              <button type="button" className="quiet px-2 text-[12.5px]" aria-pressed={marking === mark} onClick={() => onMarking(marking === mark ? null : mark)}>{marking === mark ? "click the figure" : z == null ? "mark" : "again"}</button>
            </div>
          );
        })}
      </div>
      <div className="flex items-end gap-3">
        <Linked label="Of the file's numbers" value={factor * 100} digits={factor < 10 ? 1 : 0} unit="%" onValue={(v) => take(v / 100)} />
        <Linked label="Modelled at 1 to" value={modelled} open digits={modelled && modelled % 1 ? 1 : 0} unit="" onValue={(v) => { if (!(v >= 1 && v <= 1000)) return false; setModelled(v); return true; }} />
        <Linked label="Printed at 1 to" value={ratio} digits={1} unit="" onValue={(v) => modelled != null && take(modelled / v)} />
      </div>
    </div>
  );
}
