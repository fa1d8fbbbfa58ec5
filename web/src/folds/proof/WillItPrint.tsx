import { inCoins } from "../../shell/coin";
import { Link } from "react-router";
import type { Place, PlanState, Trial } from "../../api/client";
import type { Thick } from "../../stage/scene";
import { Swatch } from "../../patterns/Patterns";
import { clock, count } from "../../shell/format";
import { useWidth } from "../../ui/useWidth";

export type Cause = Trial["causes"][number];
const HIGH = 44;
/** What stays on in fewer prints of a hundred is dyed densely, in fewer than the second openly. */
const KEPT: [number, number] = [90, 99];

/** What is lost, and how often, as a dye. */
export const lostOf = (trial: Trial | null | undefined): Thick | null =>
  trial?.kept_sha ? { sha: trial.kept_sha, limits: KEPT, called: "lost" } : null;

const putOf = (places: readonly Place[]) =>
  places.map((p) => p.map((v) => v.toFixed(3)).join(",")).join(";");

interface Props {
  plan: PlanState;
  trial: Trial;
  layers: number;
  height: number;
  picked: Cause | null;
  onPick: (cause: Cause) => void;
}

/** The plan printed a thousand times: the answer, where the failed ones failed, why, and what would help. */
export function WillItPrint({ plan, trial, layers, height, picked, onPick }: Props) {
  return (
    <section aria-label="A thousand prints" className="mb-3">
      <p className="font-display text-[19px] leading-snug">{trial.said}</p>
      <p className="mb-1 text-[12.5px] text-faded">
        {trial.kept_sha
          ? `Printed ${count(trial.prints)} times by the load path, ` +
            "with drawn strengths and pulls (priors) and always the same seed."
          : `${count(trial.prints)} draws of the hazards below at their chances (priors): ` +
            "nothing is peeled here, so no pull is walked."}
      </p>
      {trial.part + trial.all > 0 && <Failures trial={trial} tall={layers * height} />}
      <ol className="mt-1 text-[13px]">
        {trial.causes.map((c) => (
          <li key={`${c.code} ${c.layer} ${c.message}`} className="flex gap-2.5 py-1">
            <Swatch code={c.code} />
            <span className="min-w-0 flex-1">
              <button
                type="button"
                className="text-left underline decoration-thread underline-offset-2"
                aria-pressed={c === picked}
                onClick={() => {
                  onPick(c);
                }}
              >
                <b className="tabular-nums">{count(c.count)}</b> {c.loss}: {c.message}
              </button>{" "}
              <span className="whitespace-nowrap text-faded">{inCoins(c.cost)} a print</span>
              {c.helped ? (
                <span className="block text-faded">
                  {c.helped.put.length} more tips there, with the same draws: {count(trial.whole)}{" "}
                  come to <b>{count(c.helped.whole)}</b>, for {c.helped.hands_min.toFixed(1)}{" "}
                  minutes of cutting and sanding.{" "}
                  <Link
                    className="text-indigo underline"
                    to={`/plan/${plan.id}/supports?put=${putOf(c.helped.put)}`}
                  >
                    Put them
                  </Link>
                </span>
              ) : (
                <span className="block text-faded">{c.remedy}</span>
              )}
            </span>
          </li>
        ))}
      </ol>
      {trial.slower && (
        <p className="py-1 text-[13px] text-faded">
          Peeled at {trial.slower.lift_mm_s} mm/s (how pull falls with it is a prior), with the same
          draws: {count(trial.whole)} come to <b>{count(trial.slower.whole)}</b>, and it takes{" "}
          {clock(trial.slower.longer_min * 60)} longer.{" "}
          <Link className="text-indigo underline" to="/shelf">
            The lift is the printer&apos;s, on the shelf
          </Link>
          .
        </p>
      )}
    </section>
  );
}

/** First failures by height, the plate at the left. */
function Failures({ trial, tall }: { trial: Trial; tall: number }) {
  const { ref, width } = useWidth<HTMLDivElement>(600);
  const most = Math.max(...trial.ribbon, 1);
  const wide = width / trial.ribbon.length;
  const at = trial.ribbon.indexOf(most);
  const where = ((at + 0.5) / trial.ribbon.length) * tall;
  return (
    <div ref={ref}>
      <svg
        width={width}
        height={HIGH + 14}
        role="img"
        aria-label={`First failures by height: most, ${most}, near ${where.toFixed(0)} mm`}
      >
        <path d={`M0 ${HIGH}H${width}`} stroke="var(--thread)" />
        {trial.ribbon.map((n, i) =>
          n ? (
            <rect
              key={i}
              x={i * wide}
              width={Math.max(1.5, wide - 1)}
              y={HIGH - Math.max(2, (n / most) * (HIGH - 4))}
              height={Math.max(2, (n / most) * (HIGH - 4))}
              fill="var(--persimmon)"
            />
          ) : null,
        )}
        <text x={0} y={HIGH + 12} fontSize="11" fill="var(--faded)">
          plate
        </text>
        <text x={width} y={HIGH + 12} fontSize="11" textAnchor="end" fill="var(--faded)">
          first failures by height, {tall.toFixed(0)} mm
        </text>
      </svg>
    </div>
  );
}
