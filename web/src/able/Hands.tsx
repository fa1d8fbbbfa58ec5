import { api, need } from "../api/client";
import { useDeed, type MachinePage } from "../api/memory";
import { day } from "../shell/format";

/** How long hands really take: reckoned and timed, by kind of work, taken over by one click. */
export function Hands({ page }: { page: MachinePage }) {
  const { printer, material, hands } = page;
  const path = { number: printer.id };
  const take = useDeed(
    "able",
    () =>
      need(
        api.POST("/api/printers/{number}/able/take", {
          params: { path },
          body: { material_id: material.id, what: "hands_times" },
        }),
      ),
    "Taken over: plans and weeks count with it from now on.",
  );
  const undo = useDeed("able", (taken: number) =>
    need(
      api.POST("/api/printers/{number}/able/undo/{taken}", {
        params: { path: { ...path, taken } },
      }),
    ),
  );
  const forget = useDeed("able", (number: number) =>
    need(api.DELETE("/api/minutes/{number}", { params: { path: { number } } })),
  );
  const rows = [hands.whole, ...hands.kinds];
  return (
    <section aria-label="How long hands take" className="mb-4">
      <h2 className="text-[18px]">How long hands take</h2>
      <p>
        Plans count with {hands.set_to} times what is reckoned.{" "}
        {hands.whole.steps === 0 &&
          "Keep what a step by hand took, off the plate: from three on it says how long yours take."}
      </p>
      {hands.whole.steps > 0 && (
        <table aria-label="Minutes by hand" className="mt-1 w-full max-w-[560px] text-[13.5px]">
          <tbody>
            {rows.map((r) => (
              <tr key={r.kind} className="border-t border-thread">
                <td className="py-1">{r.kind}</td>
                <td className="text-right">{r.times.toFixed(2)} times</td>
                <td className="text-right text-faded">
                  {r.low.toFixed(2)} to {r.high.toFixed(2)}, 95 %
                </td>
                <td className="text-right text-faded">
                  {r.steps} step{r.steps === 1 ? "" : "s"}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {hands.latest.length > 0 && (
        <details className="mt-1 text-[13px]">
          <summary className="cursor-pointer text-faded">the latest</summary>
          <ul>
            {hands.latest.map((m) => (
              <li key={m.id} className="flex gap-3">
                <span className="text-faded">{day(m.noted_at)}</span>
                <span className="flex-1">
                  {m.step}: {m.took.toFixed(1)} min, {m.reckoned.toFixed(1)} reckoned
                </span>
                <button
                  type="button"
                  className="underline"
                  aria-label={`Take back ${m.step}`}
                  onClick={() => forget.mutate(m.id)}
                >
                  take back
                </button>
              </li>
            ))}
          </ul>
        </details>
      )}
      <div className="mt-1 flex gap-2">
        {hands.take != null && hands.taken_id == null && (
          <button type="button" className="quiet" onClick={() => take.mutate(undefined)}>
            Count with {hands.take.toFixed(2)}
          </button>
        )}
        {hands.taken_id != null && (
          <button
            type="button"
            className="quiet"
            onClick={() => hands.taken_id != null && undo.mutate(hands.taken_id)}
          >
            Put back
          </button>
        )}
      </div>
    </section>
  );
}
