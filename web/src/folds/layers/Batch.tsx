import type { LayersBoard } from "../../api/client";
import { hm } from "../../shell/format";

/** What several at once take, and each of them. */
export function Batch({ batch }: { batch: LayersBoard["batches"][number] }) {
  const [one] = batch;
  return (
    <p className="mt-2 text-[13px]">
      Several at once:{" "}
      {batch.slice(1).map((b, i) => (
        <span key={b.count}>
          {i > 0 && "; "}
          {b.count} in {hm(b.time_s)}
          {b.plates > 1 && ` on ${b.plates} plates`}
          {b.time_s < b.count * one.time_s * 0.98 && `, ${hm(b.time_s / b.count)} each`}
        </span>
      ))}
      .
    </p>
  );
}
