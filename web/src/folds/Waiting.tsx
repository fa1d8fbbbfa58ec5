import { Link, useParams } from "react-router";
import type { Computed } from "../api/queries";

/** Problems that another size, printer or copy of the figure would mend. */
const BY_SIZE = [
  "does-not-fit",
  "holds-nothing",
  "too-many-layers",
  "too-many-islands",
  "still-open",
  "sheet",
  "no-volume",
  "too-long",
];

/** What is under way, how far, and a way to stop it; or what went wrong, why, and ways on. */
export function Waiting<T>({ of, what }: { of: Computed<T>; what: string }) {
  const { plan } = useParams();
  if (of.problem)
    return (
      <div role="alert" className="my-2 border-l-4 border-persimmon bg-paper px-4 py-3">
        <p className="font-medium">{of.problem.message}</p>
        {of.problem.where && <p className="text-faded">{of.problem.where}</p>}
        {of.problem.remedy && <p className="mt-1 text-[13.5px]">{of.problem.remedy}</p>}
        <p className="mt-2 flex flex-wrap gap-2">
          <button type="button" className="quiet" onClick={of.again}>
            Try again
          </button>
          {plan && BY_SIZE.includes(of.problem.code) && (
            <Link className="quiet" to={`/plan/${plan}/size`}>
              Change size, printer or copy
            </Link>
          )}
        </p>
      </div>
    );
  if (!of.waiting) return null;
  const share = of.job?.share ?? 0;
  return (
    <div role="status" aria-live="polite" className="my-2 border border-thread bg-paper px-4 py-3">
      <div className="flex items-baseline justify-between gap-4">
        <span>
          {what}
          {of.draft
            ? "; what is there can be looked at"
            : of.old
              ? " again; what you see is stale"
              : ""}
        </span>
        <span className="text-faded">
          {of.job?.state === "running" ? of.job.doing : "waiting for a free worker"}
        </span>
      </div>
      <Progress share={share} label={what} />
      {of.job && (
        <button type="button" className="quiet mt-2" onClick={of.cancel}>
          Cancel
        </button>
      )}
    </div>
  );
}

/** How far something is, woven. */
export function Progress({ share, label }: { share: number; label: string }) {
  return (
    <div
      className="mt-1.5 h-2.5 border border-thread"
      role="progressbar"
      aria-valuenow={Math.round(share * 100)}
      aria-valuemin={0}
      aria-valuemax={100}
      aria-label={label}
    >
      <div
        className="weaving h-full transition-[width]"
        style={{ width: `${Math.max(3, share * 100)}%` }}
      />
    </div>
  );
}
