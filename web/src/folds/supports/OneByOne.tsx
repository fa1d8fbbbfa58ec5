import { useState } from "react";
import type { PlanState, Schemas, SupportsRow } from "../../api/client";
import { Choice } from "../../ui/Choice";
import { REASONS } from "./ByHand";
import { saidOf, useNeeded, useWhatIf } from "./useWhatIf";

type Spot = Schemas["SpotDoc"];
export type Order = "height" | "weakest" | "comfort";

const ORDERS = [
  { value: "height", text: "from the plate up" },
  { value: "weakest", text: "weakest first" },
  { value: "comfort", text: "comfort only" },
] as const satisfies readonly { value: Order; text: string }[];

/** Numbers of tips in the order in which they are walked. */
export function walkOf(spots: readonly Spot[], order: Order, needed?: boolean[]): number[] {
  const all = spots.map((_, i) => i).filter((i) => order !== "comfort" || needed?.[i] === false);
  const by = (i: number) => (order === "weakest" ? (spots[i].margin ?? Infinity) : spots[i].at[2]);
  return all.sort((a, b) => by(a) - by(b) || a - b);
}

/** What a tip is and what it bears. */
export function spotLine(s: Spot, needed: boolean | undefined): string {
  const words = REASONS.find(([reason]) => reason === s.reason)?.[1] ?? s.reason;
  const bears = s.margin == null ? "" : `; holds ${s.margin.toFixed(1)} times what it is asked for`;
  const foot = s.stands_on_figure ? "; stands on the figure" : s.inside ? "; stays inside" : "";
  const broad = s.area_mm2
    ? `an area of ${s.area_mm2.toFixed(0)} mm²`
    : `${s.diameter_mm.toFixed(2)} mm`;
  const sized = `${broad}, ${s.at[2].toFixed(1)} mm up`;
  const worth = needed == null ? "" : needed ? "needed, " : "comfort, ";
  const first = `${worth}${words}`;
  return `${first.charAt(0).toUpperCase()}${first.slice(1)}: ${sized}${bears}${foot}.`;
}

interface Props {
  plan: PlanState;
  row: SupportsRow;
  at: number | null;
  gone: number[];
  onAt: (spot: number | null) => void;
  onTakeAway: (spot: number) => void;
}

/** A walk from tip to tip, with what would give way without each. */
export function OneByOne({ plan, row, at, gone, onAt, onTakeAway }: Props) {
  const [order, setOrder] = useState<Order>("height");
  const needed = useNeeded(plan, row, at != null || order === "comfort");
  const walk = walkOf(row.spots, order, needed);
  const here = at == null ? -1 : walk.indexOf(at);
  const without = useWhatIf(
    plan,
    at == null ? undefined : row,
    at == null ? [] : [...gone, at],
    [],
  );
  const spot = at == null ? undefined : row.spots.at(at);
  const step = (by: number) =>
    onAt(walk[here < 0 ? (by > 0 ? 0 : walk.length - 1) : (here + by + walk.length) % walk.length]);
  if (!row.spots.length) return null;
  return (
    <section aria-label="Tips one by one" className="mt-3 text-[13px]">
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1.5">
        <h2 className="font-medium">Tip by tip</h2>
        <Choice
          label="Order of tips"
          small
          value={order}
          options={ORDERS}
          onValue={(o) => {
            setOrder(o);
            onAt(walkOf(row.spots, o, needed)[0] ?? null);
          }}
        />
        <button
          type="button"
          className="quiet px-2"
          disabled={!walk.length}
          onClick={() => step(-1)}
        >
          before
        </button>
        <span aria-live="polite">
          {here < 0 ? `${walk.length} tips` : `${here + 1} of ${walk.length}`}
          {needed && `, ${needed.filter(Boolean).length} needed`}
        </span>
        <button
          type="button"
          className="quiet px-2"
          disabled={!walk.length}
          onClick={() => step(1)}
        >
          next
        </button>
        {at != null && (
          <button type="button" className="quiet px-2" onClick={() => onAt(null)}>
            leave
          </button>
        )}
      </div>
      {spot && at != null && (
        <p className="mt-1" aria-live="polite">
          {spotLine(spot, needed?.[at])}{" "}
          {gone.includes(at) ? (
            "You have taken it away."
          ) : (
            <>
              <span className={without.data?.worse.length ? "text-persimmon" : "text-moss"}>
                Without it: {without.data ? lower(saidOf(without.data)) : "being read"}
              </span>{" "}
              <button
                type="button"
                className="text-indigo underline"
                onClick={() => onTakeAway(at)}
              >
                take it away
              </button>
            </>
          )}
        </p>
      )}
    </section>
  );
}

const lower = (s: string) => s.charAt(0).toLowerCase() + s.slice(1);
