import type { Judged } from "../../api/client";
import { Choice } from "../../ui/Choice";
import { Liquid } from "./Liquid";
import { WAYS, type useHeld } from "./useHeld";

const ml = (v: number) => `${v.toFixed(2)} ml`;

/** The position in which it drips, those before it, what each leaves, and a look inside. */
export function Held({
  held,
  judged,
}: {
  held: ReturnType<typeof useHeld>;
  judged: Judged | null;
}) {
  const sequence = judged?.sequence ?? [];
  const name = (i: number) => WAYS.find((w) => w.value === (held.before.at(i)?.way ?? held.way));
  const last = sequence.at(-1);
  return (
    <div className="min-w-[220px] flex-1">
      <Choice
        label="Held"
        small
        value={held.way}
        options={WAYS}
        onValue={held.hold}
        className="mb-1"
      />
      {held.way === "hand" && (
        <p className="text-[12.5px] text-faded">Drag the figure, or turn it with the arrow keys.</p>
      )}
      {held.way !== "best" && last && (
        <div className="mb-1 text-[13px]" aria-live="polite">
          <ol aria-label="Turns">
            {sequence.map((s, i) => (
              <li key={i}>
                {sequence.length > 1 && `${i + 1}. `}
                {name(i)?.text}: {ml(s.left_ml)} left
              </li>
            ))}
          </ol>
          <div className="mt-1 flex gap-2">
            <button type="button" className="quiet px-2 py-0.5 text-[12.5px]" onClick={held.then}>
              then turn it
            </button>
            {held.before.length > 0 && (
              <button
                type="button"
                className="quiet px-2 py-0.5 text-[12.5px]"
                onClick={held.again}
              >
                full again
              </button>
            )}
          </div>
        </div>
      )}
      {judged?.liquid && <Liquid key={JSON.stringify(judged.liquid.down)} data={judged.liquid} />}
    </div>
  );
}
