import { useQuery } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { api, need, type PlanState, type Schemas } from "../../api/client";
import { useBranch } from "../../line/api";
import { clock, percent } from "../../shell/format";

type Way = Schemas["WayRow"];
const MOST = 3;

/** Which settings won for this figure, on how many prints, with what doubt; and those again. */
export function BestKnown({ plan }: { plan: PlanState }) {
  const go = useNavigate();
  const known = useQuery({
    queryKey: ["runs", "best", plan.figure_id],
    queryFn: () =>
      need(api.GET("/api/figures/{number}/best", { params: { path: { number: plan.figure_id } } })),
  }).data;
  if (!known?.length) return null;
  return (
    <section aria-label="Best known" className="mt-5">
      <h2 className="text-[18px]">Best known</h2>
      {known.map((on) => (
        <div key={on.printer_name} className="mt-1">
          <p className="text-[13px] text-faded">
            On {on.printer_name}
            {on.few && ": too few prints to call any best"}
          </p>
          <ul>
            {on.ways.map((way, k) => (
              <Row
                key={`${way.plan_id} ${way.decision_id}`}
                way={way}
                first={k === 0}
                few={on.few}
                several={on.ways.length > 1}
                onAgain={(id) => void go(`/plan/${id}`)}
              />
            ))}
          </ul>
        </div>
      ))}
    </section>
  );
}

interface RowProps {
  way: Way;
  first: boolean;
  few: boolean;
  several: boolean;
  onAgain: (plan: number) => void;
}

function Row({ way, first, few, several, onAgain }: RowProps) {
  const again = useBranch(way.plan_id, onAgain);
  const more = way.otherwise.length - MOST;
  return (
    <li className="flex flex-wrap items-baseline gap-x-4 border-b border-thread py-1.5 text-[13.5px]">
      <span className={first && !few ? "font-medium" : ""}>
        {way.good} of {way.runs} whole
      </span>
      <span className="text-faded">
        {percent(way.low)} to {percent(way.high)}
        {several && `, the best with ${percent(way.best)}`}
        {way.took_s != null && `, ${clock(way.took_s)}`}
      </span>
      <span className="min-w-40 flex-1 text-faded">
        {first ? `in ${way.material_name}` : ""}
        {way.otherwise
          .slice(0, MOST)
          .map((c) => `${c.name}: ${c.now}`)
          .join("; ")}
        {more > 0 && ` and ${more} more`}
      </span>
      {way.decision_id != null && (
        <button
          type="button"
          className="quiet px-2.5 py-0.5 text-[13px]"
          disabled={again.isPending}
          onClick={() => again.mutate({ decision: way.decision_id })}
        >
          plan it so again
        </button>
      )}
    </li>
  );
}
