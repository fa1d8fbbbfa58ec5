import { useState } from "react";
import { useHotkeys } from "react-hotkeys-hook";
import type { PlanState, Schemas, SupportsRow } from "../../api/client";
import { Choice } from "../../ui/Choice";
import { REASONS } from "./ByHand";
import { saidOf, useBackOff, useNeeded, useWhatIf } from "./useWhatIf";

type Spot = Schemas["SpotDoc"];
export type Order = "height" | "weakest" | "comfort" | "back";
type BackOff = Schemas["BackOffDoc"];

const ORDERS = [
  { value: "height", text: "from the plate up" },
  { value: "weakest", text: "weakest first" },
  { value: "comfort", text: "comfort only" },
  { value: "back", text: "back off" },
] as const satisfies readonly { value: Order; text: string }[];

/** Numbers of tips in the order in which they are walked. */
export function walkOf(
  spots: readonly Spot[],
  order: Order,
  needed?: boolean[],
  back?: BackOff,
): number[] {
  if (order === "back") return back?.order ?? [];
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

/** How far tips may go, and what going as far as here leaves. */
export function backSaid({ order, free, least }: BackOff, here: number): string {
  if (!order.length) return "None may go.";
  if (here >= free)
    return `From here on something would be held by less than is asked: ${free} of ${order.length} may go.`;
  const left = least.at(here < 0 ? free - 1 : here);
  const many = here < 0 ? free : here + 1;
  const holds =
    left == null ? "" : `; what is held least then has ${left.toFixed(1)} times its pull`;
  const sags = "slopes that sag are told once it is proved";
  return many === 0
    ? `None of ${order.length} may go before something is held by less than is asked.`
    : `${many} of ${order.length} may go, what bears least first${holds}; ${sags}.`;
}

interface Props {
  plan: PlanState;
  row: SupportsRow;
  at: number | null;
  gone: number[];
  onAt: (spot: number | null) => void;
  onTakeAway: (...spots: number[]) => void;
}

/** A walk from tip to tip, with what would give way without each. */
export function OneByOne({ plan, row, at, gone, onAt, onTakeAway }: Props) {
  const [order, setOrder] = useState<Order>("height");
  const needed = useNeeded(plan, row, at != null || order === "comfort");
  const back = useBackOff(plan, row, order === "back");
  const walk = walkOf(row.spots, order, needed, back);
  const here = at == null ? -1 : walk.indexOf(at);
  const without = useWhatIf(
    plan,
    at == null ? undefined : row,
    at == null ? [] : [...gone, at],
    [],
  );
  const spot = at == null ? undefined : row.spots.at(at);
  const step = (by: number) => {
    if (walk.length)
      onAt(
        walk[here < 0 ? (by > 0 ? 0 : walk.length - 1) : (here + by + walk.length) % walk.length],
      );
  };
  useHotkeys("n", () => step(1), [walk, here]);
  useHotkeys("shift+n", () => step(-1), [walk, here]);
  useHotkeys("delete", () => at != null && onTakeAway(at), [at, onTakeAway]);
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
            onAt(walkOf(row.spots, o, needed, back)[0] ?? null);
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
          next <kbd className="text-[11px]">N</kbd>
        </button>
        {at != null && (
          <button type="button" className="quiet px-2" onClick={() => onAt(null)}>
            leave
          </button>
        )}
      </div>
      {order === "back" && (
        <p className="mt-1" aria-live="polite">
          {back ? backSaid(back, here) : "The order in which they may go is being read."}{" "}
          {back && back.free > 0 && (
            <button
              type="button"
              className="text-indigo underline"
              onClick={() => onTakeAway(...back.order.slice(0, here < 0 ? back.free : here + 1))}
            >
              take {here < 0 ? `these ${back.free}` : "all as far as here"} away
            </button>
          )}
        </p>
      )}
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
