import { coin } from "../shell/coin";
import { useState, type FormEvent } from "react";
import type { Machine } from "../api/client";
import { Pick } from "../ui/Pick";
import { specOf, typedOf, wrongWith, type Field } from "./values";

interface Props {
  fields: Field[];
  /** What is kept already; null for a new one. */
  kept: Machine | null;
  process: string;
  busy: boolean;
  onKeep: (spec: Record<string, unknown>) => void;
  onAway: () => void;
}

/** A printer or a material in groups of numbers, each with its unit and range. */
export function SpecForm({ fields, kept, process, busy, onKeep, onAway }: Props) {
  const [name, setName] = useState(kept?.name ?? "");
  const [typed, setTyped] = useState(() => typedOf(fields, kept?.spec ?? {}));
  const wrong = Object.fromEntries(fields.map((f) => [f.name, wrongWith(f, typed[f.name])]));
  const sound = !!name.trim() && name.trim().length <= 80 && Object.values(wrong).every((w) => !w);
  const groups = [...new Set(fields.map((f) => f.group))];
  const submit = (event: FormEvent) => {
    event.preventDefault();
    // What its log has taught of causes is no field of the form, and stays.
    const { cause_times } = kept?.spec ?? {};
    if (sound)
      onKeep({ ...specOf(fields, typed, name, process), ...(cause_times ? { cause_times } : {}) });
  };
  const put = (f: Field, i: number, text: string) =>
    setTyped((t) => ({ ...t, [f.name]: t[f.name].map((old, k) => (k === i ? text : old)) }));
  return (
    <form onSubmit={submit} className="text-[13.5px]">
      <label className="flex items-center gap-3">
        <span className="font-medium">Name</span>
        <input className="field w-72" value={name} onChange={(e) => setName(e.target.value)} />
        <span className="text-[12.5px] text-faded">
          {kept && name.trim() !== kept.name ? "kept as another one" : ""}
        </span>
      </label>
      {groups.map((group) => (
        <fieldset key={group} className="mt-4">
          <legend className="mb-1 font-medium text-indigo">{group}</legend>
          {fields
            .filter((f) => f.group === group)
            .map((f) => (
              <div
                key={f.name}
                className="grid grid-cols-[minmax(180px,290px)_auto_1fr] items-center gap-3 border-b border-thread py-1"
              >
                <span>{f.title}</span>
                <span className="flex items-center gap-1.5">
                  {typed[f.name].map((text, i) =>
                    f.words.length ? (
                      <Pick
                        key={i}
                        className="w-[232px]"
                        label={f.title}
                        value={text}
                        options={f.words.map((word, k) => ({
                          value: String(f.low + k),
                          text: word,
                        }))}
                        onValue={(value) => put(f, i, value)}
                      />
                    ) : (
                      <input
                        key={i}
                        className="field w-[84px] text-right"
                        inputMode="decimal"
                        aria-label={f.many > 1 ? `${f.title}, number ${i + 1}` : f.title}
                        aria-invalid={!!wrong[f.name]}
                        value={text}
                        onChange={(e) => put(f, i, e.target.value)}
                      />
                    ),
                  )}
                  {!f.words.length && (
                    <span className="w-12">{f.unit === "coins" ? coin() : f.unit}</span>
                  )}
                </span>
                <span className="text-[12.5px] text-persimmon" role={wrong[f.name] ? "alert" : ""}>
                  {wrong[f.name]}
                </span>
              </div>
            ))}
        </fieldset>
      ))}
      <div className="sticky -bottom-5 mt-4 flex items-center gap-3 bg-cotton pt-2 pb-5">
        <button className="take" disabled={!sound || busy}>
          Keep it
        </button>
        {kept && (
          <button type="button" className="quiet" disabled={busy} onClick={onAway}>
            Put it away
          </button>
        )}
        <span className="text-[12.5px] text-faded">
          Plans that print with it are computed anew; their decisions stay and are told as stale.
        </span>
      </div>
    </form>
  );
}
