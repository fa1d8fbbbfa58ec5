import { coin } from "../../shell/coin";
import { useState } from "react";
import type { PlanState } from "../../api/client";

const MOST = 10_000;
const clamped = (text: string, low: number, high: number) =>
  Math.min(Math.max(Number(text) || low, low), high);

/** A page for somebody who orders the figure: what it is, and what so many of it cost. */
export function Offer({ plan, ready }: { plan: PlanState; ready: boolean }) {
  const [pieces, setPieces] = useState("1");
  const [more, setMore] = useState("0");
  const [unit, setUnit] = useState(coin);
  const asked = new URLSearchParams({
    pieces: String(Math.round(clamped(pieces, 1, MOST))),
    more: String(clamped(more, 0, 1000) / 100),
    unit: unit.trim() || coin(),
  });
  return (
    <section aria-label="An offer" className="mt-3 flex flex-wrap items-center gap-2 text-[13px]">
      For somebody who orders
      <input
        className="field w-16 py-0.5"
        inputMode="numeric"
        aria-label="Pieces of an offer"
        value={pieces}
        onChange={(e) => setPieces(e.target.value)}
      />
      of it, with
      <input
        className="field w-14 py-0.5"
        inputMode="decimal"
        aria-label="Percent on top of an offer"
        value={more}
        onChange={(e) => setMore(e.target.value)}
      />
      % on top, in
      <input
        className="field w-20 py-0.5"
        maxLength={12}
        aria-label="Currency of an offer"
        value={unit}
        onChange={(e) => setUnit(e.target.value)}
      />
      <a
        className={`text-indigo underline ${ready ? "" : "pointer-events-none opacity-50"}`}
        href={`/api/plans/${plan.id}/offer?${asked.toString()}`}
        download
      >
        Offer, PDF
      </a>
    </section>
  );
}
