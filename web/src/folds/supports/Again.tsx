import { useMutation, useQuery } from "@tanstack/react-query";
import {
  api,
  need,
  problemOf,
  type PlanState,
  type Schemas,
  type SupportsRow,
} from "../../api/client";
import { Pick } from "../../ui/Pick";
import type { useByHand } from "./useByHand";

interface Props {
  plan: PlanState;
  row: SupportsRow;
  hand: ReturnType<typeof useByHand>;
}

/** Changes by hand made once and wanted again: on the other side, or as another plan has them. */
export function Again({ plan, row, hand }: Props) {
  const path = { number: plan.id };
  const { data: others } = useQuery({
    queryKey: ["hands", plan.id],
    queryFn: () => need(api.GET("/api/plans/{number}/supports/hands", { params: { path } })),
  });
  const mine = hand.asked()?.edits ?? [];
  const again = useMutation({
    mutationFn: (body: Partial<Schemas["AgainAsk"]>) =>
      need(
        api.POST("/api/plans/{number}/supports/again", {
          params: { path },
          body: { plan: null, edits: [], known: mine, mirrored: false, ...body },
        }),
      ),
    onSuccess: ({ edits }) => hand.bring(edits),
  });
  const places = mine.filter((e) => e.op !== "raft");
  if (!places.length && !others?.length) return null;
  return (
    <div className="mt-1.5 flex flex-wrap items-center gap-x-4 gap-y-1.5">
      {places.length > 0 && (
        <button
          type="button"
          className="quiet px-2 text-[12.5px]"
          disabled={again.isPending}
          onClick={() => again.mutate({ edits: places, mirrored: true })}
        >
          The same on the other side
        </button>
      )}
      {!!others?.length && (
        <Pick
          label="Changes as another plan has them"
          className="text-[12.5px]"
          value="none"
          options={[
            { value: "none", text: "As another plan has them" },
            ...others.map((o) => ({ value: `${o.plan_id}`, text: takenFrom(o) })),
          ]}
          onValue={(v) => v !== "none" && again.mutate({ plan: Number(v) })}
        />
      )}
      <span aria-live="polite" className={again.error ? "text-persimmon" : "text-faded"}>
        {again.error
          ? problemOf(again.error).message
          : again.data && !again.data.edits.length
            ? "All of that is there already."
            : row.own && again.isSuccess
              ? "Added to yours; prove it so."
              : ""}
      </span>
    </div>
  );
}

/** Another plan whose supports were changed by hand, in a line. */
export const takenFrom = (o: Schemas["HandsOf"]) =>
  `${o.figure}, plan ${o.plan_id}: ${o.edits} change${o.edits === 1 ? "" : "s"}${o.same ? "" : " (another mesh)"}`;
