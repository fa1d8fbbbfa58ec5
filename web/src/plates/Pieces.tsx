import { useState } from "react";
import { Link } from "react-router";
import { Pick } from "../ui/Pick";
import { Sets } from "./Sets";
import { useOffers, type Deeds, type Line, type PieceState, type Whole } from "./api";

/** A count that is typed or stepped; it is told when it rests. */
export function Count({
  label,
  value,
  onValue,
}: {
  label: string;
  value: number;
  onValue: (n: number) => void;
}) {
  const [typed, setTyped] = useState(String(value));
  const [held, setHeld] = useState(value);
  if (held !== value) {
    setHeld(value);
    setTyped(String(value));
  }
  const tell = (text: string) => {
    const n = Math.round(Number(text));
    if (Number.isFinite(n) && n >= 1 && n <= 120) onValue(n);
    else setTyped(String(value));
  };
  return (
    <span className="inline-flex items-center gap-1">
      <button
        type="button"
        className="quiet px-2"
        aria-label={`one fewer ${label}`}
        disabled={value <= 1}
        onClick={() => onValue(value - 1)}
      >
        −
      </button>
      <input
        className="field w-12 text-center"
        aria-label={`how many ${label}`}
        inputMode="numeric"
        value={typed}
        onChange={(e) => setTyped(e.target.value)}
        onBlur={() => typed !== String(value) && tell(typed)}
        onKeyDown={(e) => {
          if (e.key !== "Enter") return;
          e.preventDefault(); // a count is no end of a form
          tell(typed);
        }}
      />
      <button
        type="button"
        className="quiet px-2"
        aria-label={`one more ${label}`}
        onClick={() => onValue(value + 1)}
      >
        +
      </button>
    </span>
  );
}

/** Which plans, so many of each, and what each waits for. */
export function Pieces({ whole, deeds }: { whole: Whole; deeds: Deeds }) {
  const offers = useOffers(whole.printer_id).data ?? [];
  const lines: Line[] = whole.pieces.map(({ plan_id, copies }) => ({ plan_id, copies }));
  const others = offers.filter((o) => !lines.some((l) => l.plan_id === o.plan_id));
  const put = (pieces: Line[]) => deeds.change({ pieces });
  return (
    <section aria-label="Pieces">
      <h2 className="text-[18px]">Which, and how many</h2>
      <ul>
        {whole.pieces.map((p) => (
          <li
            key={p.plan_id}
            className="flex flex-wrap items-center gap-x-3 gap-y-1 border-b border-thread py-1.5"
          >
            <Count
              label={p.figure_name || `plan ${p.plan_id}`}
              value={p.copies}
              onValue={(copies) =>
                put(lines.map((l) => (l.plan_id === p.plan_id ? { ...l, copies } : l)))
              }
            />
            <Name of={p} />
            {p.state === "ready" && <Sets plate={whole.id} of={p} />}
            {lines.length > 1 && (
              <button
                type="button"
                className="ml-auto text-faded underline"
                onClick={() => put(lines.filter((l) => l.plan_id !== p.plan_id))}
              >
                take away
              </button>
            )}
            {p.said && (
              <span
                className={`w-full text-[12.5px] ${p.state === "counting" ? "text-faded" : "text-persimmon"}`}
              >
                {p.said}{" "}
                {p.state === "open" && (
                  <Link className="underline" to={`/plan/${p.plan_id}`}>
                    open it
                  </Link>
                )}
              </span>
            )}
          </li>
        ))}
      </ul>
      {others.length > 0 && (
        <div className="mt-1.5">
          <Pick
            label="Another plan"
            value="none"
            options={[
              { value: "none", text: "another plan of this machine" },
              ...others.map((o) => ({
                value: String(o.plan_id),
                text: `${o.figure_name}, plan ${o.plan_number}`,
              })),
            ]}
            onValue={(v) => v !== "none" && put([...lines, { plan_id: Number(v), copies: 1 }])}
          />
        </div>
      )}
    </section>
  );
}

function Name({ of }: { of: PieceState }) {
  if (of.state === "gone") return <span className="text-faded">a figure that is gone</span>;
  return (
    <span className="min-w-0">
      <Link className="text-indigo underline" to={`/plan/${of.plan_id}`}>
        {of.figure_name}
      </Link>{" "}
      <span className="text-[12.5px] text-faded">
        plan {of.plan_number}
        {of.layer_mm != null && `, ${of.material}, ${of.layer_mm} mm`}
      </span>
    </span>
  );
}
