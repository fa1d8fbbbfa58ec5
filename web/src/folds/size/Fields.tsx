import { useState } from "react";
import { mm, parse } from "../../shell/format";
import { COMMON } from "./Ruler";

export interface Marks {
  eye: number | null;
  crown: number | null;
}

/** A figure's extents in the numbers of its file. */
export interface Measured {
  size_mm: [number, number, number];
  lower: [number, number, number];
}

interface Props {
  measured: Measured;
  factor: number;
  onFactor: (factor: number) => void;
  marks: Marks;
  marking: keyof Marks | null;
  onMarking: (mark: keyof Marks | null) => void;
}

interface LinkedProps {
  label: string;
  value: number | null;
  digits: number;
  unit: string;
  onValue: (v: number) => boolean;
  big?: boolean;
  open?: boolean;
}

const TALLEST_MM = 2000;
const sound = (height: number) => height > 0.5 && height <= TALLEST_MM;

/** A number that follows the others unless it is being typed in. */
function Linked({ label, value, digits, unit, onValue, big, open }: LinkedProps) {
  const [typed, setTyped] = useState<string | null>(null);
  const [wrong, setWrong] = useState(false);
  const shown = typed ?? (value == null ? "" : value.toFixed(digits));
  const look = big ? "w-28 font-display text-[22px] text-indigo" : "w-[74px]";
  return (
    <label className="block">
      <span className="block text-[12.5px] text-faded">{label}</span>
      <span className="flex items-baseline gap-1">
        <input
          className={`field min-w-0 ${look} ${wrong ? "border-persimmon" : ""}`}
          inputMode="decimal"
          value={shown}
          disabled={value == null && !open}
          aria-invalid={wrong}
          onFocus={(e) => e.target.select()}
          onBlur={() => {
            setTyped(null);
            setWrong(false);
          }}
          onChange={(e) => {
            setTyped(e.target.value);
            setWrong(!onValue(parse(e.target.value)));
          }}
        />
        <span className="text-[12.5px] text-faded">{unit}</span>
      </span>
    </label>
  );
}

/** What is lower than this share of its length is asked by its length too; lower than the second, first by that. */
const LOW = 0.5;
const FLAT = 0.25;

/** Its length where it lies rather low, and whether it lies so flat that sizes are those of its length. */
export function lengthOf([wide, deep, tall]: Measured["size_mm"]) {
  const long = Math.max(wide, deep);
  return { long: tall < LOW * long ? long : null, flat: tall < FLAT * long };
}

/** Every way to say how large: each number follows the others. */
export function Fields({ measured, factor, onFactor, marks, marking, onMarking }: Props) {
  const [modelled, setModelled] = useState<number | null>(null);
  const [wide, deep, tall] = measured.size_mm;
  const { long, flat } = lengthOf(measured.size_mm);
  const common = flat ? (long ?? tall) : tall;
  const take = (k: number) => {
    if (!Number.isFinite(k) || !sound(k * common)) return false;
    onFactor(k);
    return true;
  };
  const above = (z: number | null) => (z == null ? null : z - measured.lower[2]);
  const places = { eye: above(marks.eye), crown: above(marks.crown) };
  const model = (v: number) => {
    if (!(v >= 1 && v <= 1000)) return false;
    setModelled(v);
    return true;
  };
  return (
    <div className="space-y-2.5">
      <Linked
        big
        label="Height of the whole figure, mm"
        value={factor * tall}
        digits={1}
        unit="mm"
        onValue={(v) => take(v / tall)}
      />
      {long != null && (
        <Linked
          big
          label="Its length, mm"
          value={factor * long}
          digits={1}
          unit="mm"
          onValue={(v) => take(v / long)}
        />
      )}
      <p className="text-[12.5px] text-faded">
        {mm(factor * wide, 1)} wide, {mm(factor * deep, 1)} deep
        {flat && "; it lies flat: common sizes are those of its length"}
      </p>
      <div className="flex flex-wrap gap-1.5" role="group" aria-label="Common sizes">
        {COMMON.map((h) => (
          <button
            key={h}
            type="button"
            className="quiet px-2"
            aria-pressed={Math.abs(factor * common - h) < 0.05}
            onClick={() => take(h / common)}
          >
            {h}
          </button>
        ))}
        <button
          type="button"
          className="quiet px-2"
          aria-pressed={Math.abs(factor - 1) < 1e-6}
          onClick={() => take(1)}
        >
          as in the file
        </button>
      </div>
      <div className="flex flex-wrap items-end gap-3">
        {(["eye", "crown"] as const).map((mark) => {
          const z = places[mark];
          return (
            <div key={mark} className="flex items-end gap-1">
              <Linked
                label={`To the ${mark}`}
                value={z == null ? null : factor * z}
                digits={1}
                unit="mm"
                onValue={(v) => (z ? take(v / z) : false)}
              />
              <button
                type="button"
                className="quiet px-2 text-[12.5px]"
                aria-pressed={marking === mark}
                onClick={() => onMarking(marking === mark ? null : mark)}
              >
                {marking === mark ? "click the figure" : z == null ? "mark" : "again"}
              </button>
            </div>
          );
        })}
      </div>
      <div className="flex flex-wrap items-end gap-3">
        <Linked
          label="Of the file's numbers"
          value={factor * 100}
          digits={factor < 10 ? 1 : 0}
          unit="%"
          onValue={(v) => take(v / 100)}
        />
        <Linked
          label="Modelled at 1 to"
          value={modelled}
          open
          digits={modelled && modelled % 1 ? 1 : 0}
          unit=""
          onValue={model}
        />
        <Linked
          label="Printed at 1 to"
          value={modelled == null ? null : modelled / factor}
          digits={1}
          unit=""
          onValue={(v) => modelled != null && take(modelled / v)}
        />
      </div>
    </div>
  );
}
