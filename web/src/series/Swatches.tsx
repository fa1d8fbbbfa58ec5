import type { SeriesWhole } from "../api/memory";
import { bookOf, foundIn, summed } from "./read";

interface Props {
  series: SeriesWhole;
  response: string;
  shown: number | null;
  onShown: (cell: number | null) => void;
}

/** The swatch book of a series: a cell a swatch; what nobody prints is bare cloth with a stitched edge. */
export function Swatches({ series, response, shown, onShown }: Props) {
  const { spec, doc, specimens } = series;
  const book = bookOf(spec, doc);
  const sewn = doc.aliased.filter((set) => set.length > 1);
  const best = doc.best.filter((b) => b.response === response);
  return (
    <div className="overflow-x-auto">
      {sewn.map((set) => (
        <p key={set.join()} className="mb-1 text-[13.5px] text-persimmon">
          <Stitch /> {set.join(" and ")} are sewn together: they move together in these cells.
        </p>
      ))}
      <table className="border-separate border-spacing-1" aria-label="Swatches">
        <thead>
          <tr>
            <th className="pr-3 text-left text-[12.5px] font-normal text-faded">
              {book.down.join(", ")}
            </th>
            {book.columns.map((column) => (
              <th key={column} className="text-[12.5px] font-normal text-faded">
                {book.across && `${book.across} `}
                {column}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {book.rows.map((row) => (
            <tr key={row}>
              <th className="pr-3 text-left font-normal">{row}</th>
              {book.columns.map((column) => {
                const cell = book.at(row, column);
                if (cell == null)
                  return (
                    <td key={column}>
                      <span className="flex h-16 w-24 items-center justify-center border-2 border-dashed border-thread text-[12px] text-faded">
                        not planned
                      </span>
                    </td>
                  );
                const runs = specimens.filter((s) => s.cell === cell).length;
                const found = foundIn(specimens, cell, response);
                const wins = best.some(
                  (b) =>
                    b.chance >= 0.5 &&
                    String(doc.cells[cell].factors[b.factor]) === String(b.level),
                );
                return (
                  <td key={column}>
                    <button
                      type="button"
                      aria-pressed={shown === cell}
                      onClick={() => onShown(shown === cell ? null : cell)}
                      className={`flex h-16 w-24 flex-col items-center justify-center ${
                        found.length
                          ? "border border-thread bg-paper"
                          : "border-2 border-dashed border-faded"
                      } aria-pressed:outline aria-pressed:outline-2 aria-pressed:outline-indigo`}
                    >
                      <span className={`font-display text-[19px] ${wins ? "text-moss" : ""}`}>
                        {summed(found, spec.responses[response])}
                      </span>
                      <span className="text-[11.5px] text-faded">
                        {found.length} of {runs}
                      </span>
                    </button>
                  </td>
                );
              })}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

const Stitch = () => (
  <svg width="34" height="8" aria-hidden className="inline-block">
    <path d="M1 4h5M9 4h5M17 4h5M25 4h5" stroke="var(--persimmon)" strokeWidth="2" />
  </svg>
);
