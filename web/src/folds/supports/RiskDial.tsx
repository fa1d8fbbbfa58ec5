import { useState } from "react";
import type { SupportsRow } from "../../api/client";
import { Slide } from "../../ui/Slide";
import type { Asked } from "./useByHand";

const [LEAST, MOST, STOPS] = [0.005, 0.3, 48];

/** The risk at a stop of the dial: each the same factor above the last, told to two digits. */
export const riskAt = (stop: number): number =>
  Number((LEAST * (MOST / LEAST) ** (stop / STOPS)).toPrecision(2));

/** The stop nearest to a risk. */
export const stopOf = (risk: number): number =>
  Math.max(
    0,
    Math.min(STOPS, Math.round((Math.log(risk / LEAST) / Math.log(MOST / LEAST)) * STOPS)),
  );

/** An accepted risk in words. */
export const chanceOf = (risk: number): string => `one tip in ${Math.round(1 / risk)} may fail`;

interface Props {
  row: SupportsRow;
  busy: boolean;
  onAsk: (asked: Asked) => void;
}

/** The dial between the rows: let go, a set of one's own is placed and proved at that risk, in the style of the row that is shown. */
export function RiskDial({ row, busy, onAsk }: Props) {
  const [held, setHeld] = useState<number | null>(null);
  const stop = held ?? stopOf(row.risk);
  if (row.style === "came") return null;
  return (
    <div className="mt-3 flex max-w-[680px] items-center gap-3 text-[13px]">
      <span className="text-faded">Accepted risk</span>
      <Slide
        label="Accepted risk"
        value={stop}
        min={0}
        max={STOPS}
        step={1}
        said={chanceOf(riskAt(stop))}
        onValue={setHeld}
        onCommit={(v) => {
          setHeld(null);
          if (!busy && stopOf(row.risk) !== v)
            onAsk({ risk: riskAt(v), style: row.style as Asked["style"], edits: row.edits });
        }}
      />
      <span className="w-44 text-right">{chanceOf(riskAt(stop))}</span>
    </div>
  );
}
