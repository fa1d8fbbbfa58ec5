import { useState } from "react";
import type { Schemas } from "../../api/client";

interface Props {
  usual: number;
  asked: Schemas["HollowAsk"] | null;
  busy: boolean;
  onAsk: (wall: number, lattice: number | null) => void;
}

/** A wall and struts of one's own, tried as a row of the board. */
export function Own({ usual, asked, busy, onAsk }: Props) {
  const [wall, setWall] = useState(asked?.wall_mm ?? usual);
  const [struts, setStruts] = useState<number | "">(asked?.lattice_mm ?? "");
  const sound = wall >= 0.4 && wall <= 20 && (struts === "" || (struts >= 1 && struts <= 100));
  return (
    <div className="mt-3 flex flex-wrap items-end gap-3 text-[12.5px]">
      <label>
        <span className="block text-faded">Another wall, mm (usual {usual.toFixed(1)})</span>
        <input
          type="number"
          className="field w-24"
          min={0.4}
          max={20}
          step={0.1}
          value={wall}
          onChange={(e) => setWall(Number(e.target.value))}
        />
      </label>
      <label>
        <span className="block text-faded">Struts every, mm (empty for none)</span>
        <input
          type="number"
          className="field w-24"
          min={1}
          max={100}
          step={0.5}
          value={struts}
          onChange={(e) => setStruts(e.target.value === "" ? "" : Number(e.target.value))}
        />
      </label>
      <button
        type="button"
        className="quiet"
        disabled={!sound || busy}
        onClick={() => onAsk(wall, struts === "" ? null : struts)}
      >
        Try it
      </button>
      {!sound && (
        <span className="text-persimmon">A wall of 0.4 to 20 mm, struts 1 to 100 mm.</span>
      )}
    </div>
  );
}
