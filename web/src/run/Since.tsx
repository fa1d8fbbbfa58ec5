import { Link } from "react-router";
import type { Schemas } from "../api/client";
import { day } from "../shell/format";

const MOST = 8;
const SAME: Record<string, string> = {
  figure: "the last run of this figure",
  printer: "the last run on this printer",
  material: "the last run in this material",
};

/** What is set otherwise than in earlier runs that are alike. */
export function Since({ run, since }: { run: number; since: Schemas["Since"][] }) {
  if (!since.length)
    return (
      <p className="mb-4 text-faded">
        Nothing to compare with yet: no earlier run of this figure, printer or material has kept its
        settings.
      </p>
    );
  return (
    <section aria-label="What changed" className="mb-5">
      <h2 className="text-[18px]">What is other than before</h2>
      {since.map(({ same, run_id, started_at, result, changed }) => (
        <div key={run_id} className="mt-1.5">
          <p className="text-[13.5px] text-faded">
            Beside {SAME[same]},{" "}
            <Link className="text-indigo underline" to={`/run/${run_id}`}>
              run {run_id}
            </Link>{" "}
            of {day(started_at)}
            {result ? ` (${result})` : ""}
            {changed.length ? `: ${said(changed.length)}` : ": nothing was set otherwise."}{" "}
            <Link className="text-indigo underline" to={`/runs?a=${run_id}&b=${run}`}>
              Both beside each other
            </Link>
          </p>
          {changed.length > 0 && (
            <table className="board" aria-label={`Other than in run ${run_id}`}>
              <thead>
                <tr>
                  <th>setting</th>
                  <th className="board-left">then</th>
                  <th className="board-left">in this run</th>
                </tr>
              </thead>
              <tbody>
                {changed.slice(0, MOST).map((line) => (
                  <tr key={`${line.where} ${line.name}`}>
                    <td className="board-left text-[13.5px]!">
                      {line.name} <span className="text-faded">{line.where}</span>
                    </td>
                    <td className="board-left text-[13.5px]! text-faded">{line.before}</td>
                    <td className="board-left text-[13.5px]!">{line.now}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          )}
          {changed.length > MOST && (
            <p className="text-[13px] text-faded">and {changed.length - MOST} more in the sheet</p>
          )}
        </div>
      ))}
    </section>
  );
}

/** One thing changed can be told from another; several at once cannot. */
const said = (many: number) =>
  many === 1
    ? "one thing was set otherwise, so what differs may come from it."
    : `${many} things were set otherwise: what differs may come from any of them.`;
