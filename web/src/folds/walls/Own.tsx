import { useState } from "react";
import type { Schemas, WallsRow } from "../../api/client";
import { Asked, within } from "../../ui/Asked";

interface Props {
  usual: WallsRow;
  busy: boolean;
  onAsk: (own: Schemas["OwnWalls"]) => void;
}

/** Perimeters, roofs and infill of one's own, tried as a row of the board. */
export function Own({ usual, busy, onAsk }: Props) {
  const [lines, setLines] = useState<number | "">(usual.perimeters);
  const [roof, setRoof] = useState<number | "">(usual.roof_mm);
  const [fill, setFill] = useState<number | "">(Math.round(usual.infill * 100));
  const whole = within(lines, 1, 50) && Number.isInteger(lines);
  const sound = whole && within(roof, 0, 20) && within(fill, 0, 100);
  return (
    <div className="mt-3 flex flex-wrap items-end gap-3 text-[12.5px]">
      <Asked label="Perimeters" value={lines} min={1} max={50} step={1} onValue={setLines} />
      <Asked label="Roofs, mm" value={roof} min={0} max={20} step={0.1} onValue={setRoof} />
      <Asked label="Infill, %" value={fill} min={0} max={100} step={5} onValue={setFill} />
      <button
        type="button"
        className="quiet"
        disabled={!sound || busy}
        onClick={() =>
          sound && onAsk({ perimeters: lines, roof_mm: roof, infill: Number(fill) / 100 })
        }
      >
        Try it
      </button>
      {!sound && (
        <span className="text-persimmon">
          1 to 50 perimeters, roofs of 0 to 20 mm, 0 to 100 % of infill.
        </span>
      )}
    </div>
  );
}
