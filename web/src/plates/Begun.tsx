import { useQueryClient } from "@tanstack/react-query";
import { Link } from "react-router";
import { api, need } from "../api/client";
import { useDeed } from "../api/memory";
import { clock, day, hour } from "../shell/format";
import { Choice } from "../ui/Choice";
import type { Whole } from "./api";

const RESULTS = [
  { value: "good", text: "good" },
  { value: "scarred", text: "scarred" },
  { value: "part lost", text: "part lost" },
  { value: "print lost", text: "lost" },
] as const;
type Result = (typeof RESULTS)[number]["value"];

/** Plates that were begun: an outcome for every piece. */
export function Begun({ whole }: { whole: Whole }) {
  const client = useQueryClient();
  const keep = useDeed("runs", (of: { run: number; result: Result }) =>
    need(
      api.PUT("/api/runs/{number}/outcome", {
        params: { path: { number: of.run } },
        body: { result: of.result, note: "" },
      }),
    ),
  );
  if (!whole.batches.length) return null;
  return (
    <section aria-label="Begun">
      <h2 className="text-[18px]">What became of it</h2>
      {whole.batches.map((b) => (
        <div key={b.id} className="mb-2">
          <p className="text-faded">
            Plate {b.number}, {day(b.started_at)} at {hour(b.started_at)}, {clock(b.planned_s)}{" "}
            planned: {b.runs.filter((r) => r.result === "good" || r.result === "scarred").length} of{" "}
            {b.runs.length} came off whole, {b.runs.filter((r) => !r.result).length} not looked at.
          </p>
          <ul>
            {b.runs.map((r) => (
              <li
                key={r.id}
                className="flex flex-wrap items-center gap-3 border-b border-thread py-1"
              >
                <Link className="text-indigo underline" to={`/run/${r.id}`}>
                  run {r.id}
                </Link>
                <span className="min-w-0 flex-1 truncate">{r.figure_name}</span>
                <Choice
                  small
                  label={`What became of run ${r.id}`}
                  value={(r.result ?? "") as Result}
                  options={RESULTS}
                  onValue={(result) =>
                    keep.mutate(
                      { run: r.id, result },
                      {
                        onSuccess: () =>
                          void client.invalidateQueries({ queryKey: ["plate", whole.id] }),
                      },
                    )
                  }
                />
              </li>
            ))}
          </ul>
        </div>
      ))}
    </section>
  );
}
