import type { PlanState } from "../../api/client";
import { usePrinters } from "../../api/queries";
import { hm } from "../../shell/format";
import { foldOf } from "../types";

/** What this printer's own log makes of planned hours; nothing where it has timed no print. */
export function ByLog({ plan, seconds }: { plan: PlanState; seconds: number }) {
  const printers = usePrinters();
  const id = foldOf(plan, "size").choice?.printer_id;
  const hours = printers.data?.find((p) => p.id === id)?.hours;
  if (!hours) return null;
  const percent = Math.round((hours.ratio - 1) * 100);
  const longer =
    percent === 0
      ? "just as long as planned"
      : `${Math.abs(percent)} % ${percent > 0 ? "longer" : "less long"} than planned`;
  return (
    <p className="text-[13px]" data-testid="by-log">
      By the log this printer takes {longer}, over {hours.timed} timed{" "}
      {hours.timed === 1 ? "print" : "prints"}: <b>{hm(seconds * hours.ratio)}</b>, and in 19 of 20
      cases {hm(seconds * hours.low)} to {hm(seconds * hours.high)}.
    </p>
  );
}
