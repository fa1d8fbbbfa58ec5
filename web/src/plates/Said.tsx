import type { OnePlate, Whole } from "./api";

interface SaidProps {
  whole: Whole;
  plate: OnePlate;
  chosen: number | null;
  onChosen: (item: number | null) => void;
}

/** What is wrong, or what the chosen piece is and which keys move it. */
export function Said({ whole, plate, chosen, onChosen }: SaidProps) {
  const names = new Map(whole.pieces.map((p) => [String(p.plan_id), p.figure_name]));
  const item = chosen == null ? undefined : plate.doc.items.at(chosen);
  return (
    <div aria-live="polite" className="min-h-[4.2em] pt-1 text-[13px]">
      {plate.wrong.map((w) => (
        <p key={w.said} className="text-persimmon">
          {w.said}
        </p>
      ))}
      {betweenLines(plate).map((line) => (
        <p key={line} className="text-faded">
          {line}
        </p>
      ))}
      {item ? (
        <p>
          <b className="font-medium">
            {(chosen ?? 0) + 1}: {names.get(item.plan)}
          </b>{" "}
          at {item.x_mm.toFixed(1)}, {item.y_mm.toFixed(1)} mm, turned by {item.turn_deg.toFixed(1)}
          °{chosen != null && plate.pinned[chosen] ? ", pinned" : ""}.{" "}
          <span className="text-faded">
            <kbd>←↑↓→</kbd> move, with <kbd>⇧</kbd> farther, <kbd>R</kbd> turn, <kbd>P</kbd> pin or
            let go, <kbd>Esc</kbd> leave.
          </span>
        </p>
      ) : (
        <p className="flex flex-wrap gap-1 text-faded">
          {plate.doc.items.map((of, i) => (
            <button
              key={`${of.plan} ${of.copy}`}
              type="button"
              className="min-w-6 underline decoration-thread underline-offset-2"
              aria-label={`Choose piece ${i + 1}, ${names.get(of.plan) ?? ""}`}
              onClick={() => onChosen(i)}
            >
              {i + 1}
            </button>
          ))}
          <span>choose one, or drag it</span>
        </p>
      )}
    </div>
  );
}

/** What only the plate knows of its pieces. */
export function betweenLines({
  between: b,
  doc,
  in_turn: turn,
}: Pick<OnePlate, "between" | "doc"> & { in_turn?: OnePlate["in_turn"] }): string[] {
  const lines: string[] = [];
  if (b.crossings) {
    const hairs = b.hairs_min < 1 ? "less than a minute" : `${b.hairs_min.toFixed(0)} min`;
    const way = `${b.crossings.toLocaleString("en")} times, ${b.metres.toFixed(0)} m`;
    lines.push(`The nozzle crosses between pieces ${way}: ${hairs} of hairs (prior).`);
  }
  if (b.crossings && turn && !turn.can)
    lines.push(`One after the other they would not cross. ${turn.why}`);
  if (b.tight.length) {
    const pairs = b.tight.map(([i, j]) => `${i + 1} and ${j + 1}`).slice(0, 4);
    const more = b.tight.length > 4 ? ` and ${b.tight.length - 4} pairs more` : "";
    const all = b.tight.length * 2 > doc.items.length * (doc.items.length - 1) * 0.99;
    const which = all ? "its pieces" : `${pairs.join(", ")}${more}`;
    const room = `cutters find less than ${b.cutter_mm} mm (prior)`;
    lines.push(`Between ${which} ${room}: supports there come off once they are lifted.`);
  }
  return lines;
}
