import { useState } from "react";
import { useSlices } from "../../api/boards";
import type { PlanState } from "../../api/client";
import { count } from "../../shell/format";
import { Waiting } from "../Waiting";

/** The closed outlines of every layer, for whoever plans paths elsewhere. */
export function Slices({ plan, ready }: { plan: PlanState; ready: boolean }) {
  const [asked, setAsked] = useState(false);
  const slices = useSlices(plan, asked && ready);
  const made = slices.document;
  return (
    <div className="mt-2">
      {!asked && (
        <button
          type="button"
          className="quiet px-3 py-1"
          disabled={!ready}
          onClick={() => setAsked(true)}
        >
          Outlines of every layer, for use elsewhere
        </button>
      )}
      <Waiting of={slices} what="Cutting outlines of every layer" />
      {made && (
        <p>
          <a
            className="text-indigo underline"
            href={`/api/plans/${plan.id}/slices/content`}
            download
          >
            Outlines, 3MF with slices
          </a>{" "}
          {(made.size / 2 ** 20).toFixed(1)} MB: {count(made.outlines)} closed outlines of figure
          and supports in {count(made.layers)} layers.
        </p>
      )}
    </div>
  );
}
