import { Link } from "react-router";
import { api, need } from "../api/client";
import { useDeed, type SeriesWhole } from "../api/memory";

/** Plans of the cells: the figure's own plan at each cell's levels, made by the engine. */
export function Cells({ series }: { series: SeriesWhole }) {
  const plan = useDeed(
    "series",
    () => need(api.POST("/api/series/{number}/plans", { params: { path: { number: series.id } } })),
    "The plans are being made; each specimen leads to its own.",
  );
  if (series.figure_id == null) return null;
  const { set_in_plans: set, by_hand: hand } = series;
  const open = series.specimens.filter((s) => s.plan_id == null).length;
  return (
    <div className="mt-4">
      <h2 className="text-[18px]">Plans of its cells</h2>
      {set.length === 0 ? (
        <p className="text-faded">
          {hand.join(", ")}: set on the machine before each print, no plan differs in it.
        </p>
      ) : series.troubled.length > 0 ? (
        <>
          {series.troubled.map((t) => (
            <p key={t.plan_id} className="text-persimmon">
              <Link className="underline" to={`/plan/${t.plan_id}`}>
                The plan
              </Link>{" "}
              of a cell could not be made to its end: {t.problem.what} {t.problem.remedy}
            </p>
          ))}
          <button
            type="button"
            className="quiet mt-1"
            disabled={plan.isPending}
            onClick={() => plan.mutate(undefined)}
          >
            Try them again
          </button>
        </>
      ) : open === 0 ? (
        <p className="text-faded">
          Every specimen has its plan; its number leads there.
          {hand.length > 0 && ` Set ${hand.join(", ")} on the machine.`}
        </p>
      ) : (
        <>
          <p className="text-faded">
            The newest proved plan of {series.figure_name}, at each cell&apos;s {set.join(" and ")},
            supported and proved anew.
            {hand.length > 0 && ` ${hand.join(", ")} you set on the machine.`}
          </p>
          <button
            type="button"
            className="quiet mt-1"
            disabled={plan.isPending}
            onClick={() => plan.mutate(undefined)}
          >
            Make the plans
          </button>
        </>
      )}
    </div>
  );
}
