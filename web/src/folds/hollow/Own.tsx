import { useState } from "react";
import type { Schemas } from "../../api/client";
import { Asked, within } from "../../ui/Asked";

interface Props {
  usual: number;
  asked: Schemas["OwnHollow"] | null;
  busy: boolean;
  onAsk: (wall: number, lattice: number | null) => void;
}

/** A wall and struts of one's own, tried as a row of the board. */
export function Own({ usual, asked, busy, onAsk }: Props) {
  const [wall, setWall] = useState<number | "">(asked?.wall_mm ?? usual);
  const [struts, setStruts] = useState<number | "">(asked?.lattice_mm ?? "");
  const sound = within(wall, 0.4, 20) && (struts === "" || within(struts, 1, 100));
  return (
    <div className="mt-3 flex flex-wrap items-end gap-3 text-[12.5px]">
      <Asked
        label={`Another wall, mm (usual ${usual.toFixed(1)})`}
        value={wall}
        min={0.4}
        max={20}
        step={0.1}
        onValue={setWall}
      />
      <Asked
        label="Struts every, mm (empty for none)"
        value={struts}
        min={1}
        max={100}
        step={0.5}
        onValue={setStruts}
      />
      <button
        type="button"
        className="quiet"
        disabled={!sound || busy}
        onClick={() => sound && onAsk(wall, struts === "" ? null : struts)}
      >
        Try it
      </button>
      {!sound && (
        <span className="text-persimmon">A wall of 0.4 to 20 mm, struts 1 to 100 mm.</span>
      )}
    </div>
  );
}
