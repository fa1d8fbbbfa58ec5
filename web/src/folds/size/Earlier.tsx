import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { api, need, type PlanState } from "../../api/client";
import { useDeedJob } from "../../api/deed";
import { beside } from "../../line/points";
import { useView } from "../../shell/view";

const path = (plan: PlanState) => ({ params: { path: { number: plan.id } } });

/** A better version of a sculpt takes over what was decided of the one before, and says what it could not. */
export function Earlier({ plan }: { plan: PlanState }) {
  const { fail, say } = useView();
  const go = useNavigate();
  const earlier = useQuery({
    queryKey: ["earlier", plan.id, plan.head],
    queryFn: () => need(api.GET("/api/plans/{number}/earlier", path(plan))),
  });
  const [chosen, setChosen] = useState<number | null>(null);
  const [job, setJob] = useState<number | null>(null);
  const from = chosen ?? earlier.data?.at(0)?.plan_id ?? null;
  const { running, busy } = useDeedJob(job, () => {
    if (from == null) return;
    say({ text: "What was decided is taken over; its line of decisions says what is not." });
    void go(beside({ plan: from, at: null }, { plan: plan.id, at: null }));
  });
  if (!earlier.data?.length) return null;
  const begin = () => {
    if (from == null) return;
    need(api.POST("/api/plans/{number}/earlier", { ...path(plan), body: { plan: from } }))
      .then(setJob)
      .catch(fail);
  };
  return (
    <details className="mb-3 text-[13.5px]">
      <summary className="cursor-pointer text-indigo">A better version of an earlier file?</summary>
      <div className="mt-1 flex flex-wrap items-center gap-3 border-l-4 border-thread bg-paper px-4 py-2">
        <label>
          Take over from{" "}
          <select
            className="field"
            value={from ?? ""}
            disabled={busy}
            onChange={(e) => setChosen(Number(e.target.value))}
          >
            {earlier.data.map((p) => (
              <option key={p.plan_id} value={p.plan_id}>
                {p.figure_name}, plan {p.number}: {p.settled.join(", ")}
              </option>
            ))}
          </select>
        </label>
        <button type="button" className="quiet" disabled={busy} onClick={begin}>
          Size, marks, pose and all that follows
        </button>
        <span role="status" className="text-faded">
          {busy
            ? (running?.doing ?? "waiting for a free worker")
            : "As far as it lies on the new surface; the rest is said. Then both are shown beside each other."}
        </span>
      </div>
    </details>
  );
}
