import type { Machine, Schemas } from "../../api/client";
import { mm } from "../../shell/format";
import { Pick } from "../../ui/Pick";

export const SLACK = 1.0005;

interface Props {
  printers: Machine[];
  printer: Machine | undefined;
  onPrinter: (id: number) => void;
  materials: Machine[];
  material: Machine | undefined;
  onMaterial: (id: number) => void;
}

/** The printer, and a material that it takes. */
export function Machines(props: Props) {
  const { printers, printer, onPrinter, materials, material, onMaterial } = props;
  return (
    <div className="flex flex-wrap gap-3">
      <div>
        <span className="block text-[12.5px] text-faded">Printer</span>
        <Pick
          label="Printer"
          className="w-44"
          value={String(printer?.id ?? "")}
          options={printers.map((p) => ({ value: String(p.id), text: `${p.name}, ${p.process}` }))}
          onValue={(v) => onPrinter(Number(v))}
        />
      </div>
      <div>
        <span className="block text-[12.5px] text-faded">Material</span>
        <Pick
          label="Material"
          className="w-44"
          value={String(material?.id ?? "")}
          options={materials.map((m) => ({ value: String(m.id), text: m.name }))}
          onValue={(v) => onMaterial(Number(v))}
        />
      </div>
    </div>
  );
}

interface RoomProps {
  printers: Machine[];
  fits: Schemas["Fit"][];
  factor: number;
  tall: number;
}

/** Which printers take it at this size, and up to which height. */
export function Room({ printers, fits, factor, tall }: RoomProps) {
  return (
    <p className="text-[13px]">
      {printers.map((p) => {
        const most = fits.find((f) => f.printer_id === p.id)?.factor ?? 0;
        const fine = factor <= most * SLACK;
        return (
          <span key={p.id} className={`mr-4 ${fine ? "text-moss" : "text-persimmon"}`}>
            {fine ? "fits" : "too large for"} {p.name}, to {mm(most * tall, 0)}
          </span>
        );
      })}
      <span className="text-faded">in some pose</span>
    </p>
  );
}
