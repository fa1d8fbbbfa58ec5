import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import {
  api,
  need,
  problemOf,
  type PlanState,
  type Schemas,
  type SupportsRow,
} from "../../api/client";
import { Pick } from "../../ui/Pick";
import { nameOf } from "./names";
import { setOf } from "./useWhatIf";

interface Props {
  plan: PlanState;
  rows: readonly SupportsRow[];
  shown: number;
}

/** The set that is shown and another one from the same side; what only one of them has is dyed. */
export function TwoSets({ plan, rows, shown }: Props) {
  const [picked, setPicked] = useState<string>("none");
  const row = rows[shown];
  const at = picked === "none" ? -1 : Number(picked);
  const other = at === shown ? undefined : rows.at(at < 0 ? rows.length : at);
  const body = { one: setOf(row), other: setOf(other) };
  const { data, error } = useQuery({
    queryKey: ["beside", plan.id, plan.head, body],
    queryFn: () =>
      need(
        api.POST("/api/plans/{number}/supports/beside", {
          params: { path: { number: plan.id } },
          body,
        }),
      ),
    enabled: !!other,
    staleTime: Infinity,
  });
  const places = [shown, at];
  if (rows.length < 2) return null;
  return (
    <section aria-label="Two sets beside each other" className="mt-3 text-[13px]">
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1.5">
        <h2 className="font-medium">Beside another set</h2>
        <Pick
          label="Which other set"
          className="text-[12.5px]"
          value={other ? picked : "none"}
          options={[
            { value: "none", text: "none" },
            ...rows.flatMap((r, i) => (i === shown ? [] : [{ value: `${i}`, text: nameOf(r, i) }])),
          ]}
          onValue={setPicked}
        />
        {other && data && <span aria-live="polite">{differs(data)}</span>}
        {other && error && <span className="text-persimmon">{problemOf(error).message}</span>}
      </div>
      {other && data && (
        <div className="mt-2 grid grid-cols-2 gap-3">
          {[row, other].map((r, side) => (
            <figure key={side}>
              <img
                className="w-full border border-thread"
                src={`data:image/png;base64,${data.pictures[side]}`}
                alt={`${nameOf(r, places[side])}, ${data.only[side]} of its supports dyed`}
              />
              <figcaption className="text-faded">
                {nameOf(r, places[side])}: {r.tip_count} tips, {r.off_min.toFixed(0)} min,{" "}
                {r.volume_ml.toFixed(2)} ml
              </figcaption>
            </figure>
          ))}
        </div>
      )}
    </section>
  );
}

/** What tells two sets apart, in a sentence. */
export function differs({ only, both }: Omit<Schemas["BesideDoc"], "pictures">): string {
  const [here, there] = only;
  if (!here && !there) return `The same ${both} supports.`;
  return `${both} in both; ${here} only here and ${there} only there, dyed.`;
}
