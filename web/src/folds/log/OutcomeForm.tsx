import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { api, need, type Run, type Schemas } from "../../api/client";
import { useHazardKinds } from "../../api/queries";
import { parse } from "../../shell/format";
import { useView } from "../../shell/view";
import { Choice } from "../../ui/Choice";
import { Pick } from "../../ui/Pick";
import type { OnIt } from "./OnMachine";

type Result = Schemas["Outcome"]["result"];
const RESULTS: readonly Result[] = ["good", "scarred", "part lost", "print lost"];
export const REMOVAL = [
  "fell off by themselves",
  "easy",
  "some force",
  "hard",
  "took surface with them",
];
const HOUR = 3600;

/** What was typed as a number: null where nothing was, NaN where it is none. */
const numberOf = (text: string) => (text.trim() ? parse(text) : null);
const sound = (v: number | null) => v == null || v >= 0;

const isResult = (text: string | null | undefined): text is Result =>
  RESULTS.some((r) => r === text);

/** What became of a run, in large targets: it is filled in at the machine, with gloves on. */
export function OutcomeForm({
  run,
  done,
  seen: on,
}: {
  run: Run;
  done: () => void;
  /** A simulated machine that has ended: what it took, and what lies on its plate. */
  seen?: OnIt | null;
}) {
  const { fail } = useView();
  const first = run.result ?? on?.seen?.loss;
  const [result, setResult] = useState<Result>(isResult(first) ? first : "good");
  const took_s = run.real_s ?? on?.done_s;
  const [hours, setHours] = useState(took_s ? (took_s / HOUR).toFixed(2) : "");
  const [grams, setGrams] = useState(run.real_g ? run.real_g.toFixed(0) : "");
  const [layer, setLayer] = useState((run.failed_layer ?? on?.seen?.layer)?.toString() ?? "");
  const [removal, setRemoval] = useState(run.removal ?? 2);
  const kinds = Object.values(useHazardKinds()).filter((k) => k !== undefined);
  const [cause, setCause] = useState(run.cause ?? "");
  const [note, setNote] = useState(
    (run.result ? run.note : on && `On a simulated machine. ${on.seen?.why ?? ""}`.trim()) ?? "",
  );
  const took = numberOf(hours);
  const weighed = numberOf(grams);
  const failed = result === "good" ? null : numberOf(layer);
  const body: Schemas["Outcome"] = {
    result,
    real_s: took == null ? null : took * HOUR,
    real_g: weighed,
    failed_layer: failed,
    removal,
    note,
    cause: result === "good" || result === "scarred" || !cause ? null : cause,
  };
  const wrong = ![took, weighed, failed].every(sound);
  const keep = useMutation({
    mutationFn: () =>
      need(api.PUT("/api/runs/{number}/outcome", { params: { path: { number: run.id } }, body })),
    onSuccess: done,
    onError: fail,
  });
  return (
    <form
      className="mt-2 space-y-3"
      onSubmit={(e) => {
        e.preventDefault();
        keep.mutate();
      }}
    >
      <Choice
        label="Result"
        value={result}
        options={RESULTS.map((r) => ({ value: r, text: r }))}
        onValue={setResult}
        className="grid! grid-cols-2 text-[16px] sm:grid-cols-4 [&_button]:min-h-12"
      />
      <div className="flex flex-wrap gap-3">
        <Typed
          label="Hours it took"
          value={hours}
          onValue={setHours}
          hint={(run.planned_s / HOUR).toFixed(2)}
        />
        <Typed
          label="Grams used"
          value={grams}
          onValue={setGrams}
          hint={run.planned_g.toFixed(0)}
        />
        {result !== "good" && <Typed label="Failed at layer" value={layer} onValue={setLayer} />}
        {(result === "part lost" || result === "print lost") && (
          <div>
            <span className="block text-[13px] text-faded">What came true</span>
            <Pick
              label="What came true"
              value={cause || "unknown"}
              options={[
                { value: "unknown", text: "nobody knows" },
                ...kinds
                  .filter((k) => k.loss !== "scar")
                  .map((k) => ({ value: k.code, text: k.name })),
              ]}
              onValue={(v) => setCause(v === "unknown" ? "" : v)}
            />
          </div>
        )}
        <div>
          <span className="block text-[13px] text-faded">How the supports came off</span>
          <Pick
            label="How the supports came off"
            value={String(removal)}
            options={REMOVAL.map((r, i) => ({ value: String(i + 1), text: r }))}
            onValue={(v) => setRemoval(Number(v))}
          />
        </div>
      </div>
      <label className="block">
        <span className="block text-[13px] text-faded">Note</span>
        <textarea
          className="field w-full"
          rows={2}
          value={note}
          onChange={(e) => setNote(e.target.value)}
          maxLength={2000}
        />
      </label>
      <button className="take px-6 py-3 text-[16px]" disabled={keep.isPending || wrong}>
        Keep this outcome
      </button>
      {wrong && (
        <span role="status" className="ml-3 text-persimmon">
          Hours, grams and layers are plain numbers; leave empty what you do not know.
        </span>
      )}
    </form>
  );
}

interface TypedProps {
  label: string;
  value: string;
  onValue: (v: string) => void;
  hint?: string;
}

function Typed({ label, value, onValue, hint }: TypedProps) {
  return (
    <label>
      <span className="block text-[13px] text-faded">{label}</span>
      <input
        className="field w-28"
        inputMode="decimal"
        aria-invalid={!sound(numberOf(value))}
        value={value}
        onChange={(e) => onValue(e.target.value)}
        placeholder={hint}
      />
    </label>
  );
}
