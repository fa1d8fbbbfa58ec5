import { useState } from "react";
import { Pick } from "../ui/Pick";
import type { Own, Settable } from "./api";
import { asOwn, keyOf, wrongOf } from "./own";

interface Props {
  offered: Settable[];
  busy: boolean;
  onPlan: (own: Own) => void;
}

/** Settings that another plan shall have of its own: the shelf, and every other plan, stay as they are. */
export function OwnSettings({ offered, busy, onPlan }: Props) {
  const [chosen, setChosen] = useState<Record<string, string>>({});
  const left = offered.filter((o) => !(keyOf(o) in chosen));
  const mine = offered.filter((o) => keyOf(o) in chosen);
  const wrong = mine.map((o) => wrongOf(o, chosen[keyOf(o)])).find((w) => w !== null);
  return (
    <section aria-label="Settings of its own" className="space-y-2">
      <h3 className="text-[15px]">Settings of its own</h3>
      <p className="text-[13px] text-faded">
        Slower walls, a wider gap, a longer exposure for one plan alone; the shelf stays as it is.
      </p>
      {mine.map((o) => (
        <div key={keyOf(o)} className="flex flex-wrap items-baseline gap-2">
          <label className="flex flex-1 flex-wrap items-baseline gap-2">
            <span className="min-w-40 flex-1">{o.title}</span>
            <input
              className="field w-24"
              inputMode="decimal"
              value={chosen[keyOf(o)]}
              onChange={(e) => setChosen({ ...chosen, [keyOf(o)]: e.target.value })}
            />
            <span className="text-[13px] text-faded">{o.unit}</span>
          </label>
          <button
            type="button"
            className="quiet"
            aria-label={`Leave ${o.title} as it is`}
            onClick={() =>
              setChosen(Object.fromEntries(Object.entries(chosen).filter(([k]) => k !== keyOf(o))))
            }
          >
            leave
          </button>
        </div>
      ))}
      <Pick
        label="Set otherwise"
        value="none"
        options={[
          { value: "none", text: "set otherwise…" },
          ...left.map((o) => ({ value: keyOf(o), text: o.title })),
        ]}
        onValue={(key) => {
          const one = offered.find((o) => keyOf(o) === key);
          if (one) setChosen({ ...chosen, [key]: one.now == null ? "" : String(one.now) });
        }}
      />
      {wrong && (
        <p role="alert" className="text-[13px] text-madder">
          {wrong}
        </p>
      )}
      {mine.length > 0 && (
        <button
          type="button"
          className="quiet"
          disabled={busy || wrong !== undefined}
          onClick={() => onPlan(asOwn(mine, chosen))}
        >
          Another plan with these
        </button>
      )}
    </section>
  );
}
