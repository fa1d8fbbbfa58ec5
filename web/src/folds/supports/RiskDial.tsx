import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { api, need, type PlanState, type SupportsRow } from "../../api/client";
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

const QUIET_MS = 700;
const COUNTED_MS = 500;

/** How many tips a risk asks for, live: a worker counts them once, at the first turn. */
function useDemand(plan: PlanState, risk: number, asked: boolean) {
  const key = plan.folds.find((f) => f.name === "supports")?.key ?? null;
  return useQuery({
    queryKey: ["demand", plan.id, key, risk],
    queryFn: () =>
      need(
        api.POST("/api/plans/{number}/supports/demand", {
          params: { path: { number: plan.id } },
          body: { risk },
        }),
      ),
    enabled: asked,
    staleTime: Infinity,
    refetchInterval: (q) => (q.state.data?.tips === null ? COUNTED_MS : false),
    placeholderData: keepPreviousData,
  }).data;
}

interface Props {
  plan: PlanState;
  row: SupportsRow;
  /** Whether sets are still on their way: the dial waits for them. */
  busy: boolean;
  onAsk: (asked: Asked) => void;
}

/**
 * The dial between the rows: once it rests, a set of one's own is placed and proved at that risk,
 * in the style of the row that is shown.
 */
export function RiskDial({ plan, row, busy, onAsk }: Props) {
  const [held, setHeld] = useState<number | null>(null);
  const stop = held ?? stopOf(row.risk);
  const demand = useDemand(plan, riskAt(stop), held != null);
  useEffect(() => {
    if (busy || held == null || held === stopOf(row.risk)) return;
    const timer = setTimeout(
      () => onAsk({ risk: riskAt(held), style: row.style as Asked["style"], edits: row.edits }),
      QUIET_MS,
    );
    return () => clearTimeout(timer);
    // Only what the hand does asks anew.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [held, busy]);
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
      />
      <span className="w-64 text-right" aria-live="polite">
        {chanceOf(riskAt(stop))}
        {demand?.tips != null && `: ${demand.tips} tips asked for`}
      </span>
    </div>
  );
}
