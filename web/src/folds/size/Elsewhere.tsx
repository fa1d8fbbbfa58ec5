import type { PlanState } from "../../api/client";
import { useFits } from "../../api/figure";
import { usePrinters } from "../../api/queries";
import { foldOf } from "../types";
import { Room } from "./Machines";

/** Which printer would take the figure at its size, where the one that was chosen does not. */
export function Elsewhere({ plan }: { plan: PlanState }) {
  const size = foldOf(plan, "size").choice;
  const printers = usePrinters().data ?? [];
  const fits = useFits(plan.figure_id);
  if (!fits || size?.factor == null) return null;
  const tall = (size.height_mm ?? 0) / size.factor;
  return <Room printers={printers} fits={fits} factor={size.factor} tall={tall} />;
}
