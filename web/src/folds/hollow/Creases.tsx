import type { Schemas } from "../../api/client";

export type Crease = Schemas["CreaseDoc"];

const FEW = 4;

/** What a place is, and what was done there. */
export function creaseLine(c: Crease): string {
  const done = c.hollow
    ? `the inside keeps clear of it, ${c.taken_mm3.toFixed(0)} mm³ more stay solid`
    : "it stays solid there";
  return `${c.deep_mm.toFixed(1)} mm deeper than the surface around it, ${c.place[2].toFixed(0)} mm up: ${done}`;
}

interface Props {
  rows: Crease[];
  wall: number;
  picked: Crease | null;
  onPick: (crease: Crease | null) => void;
}

/** Where detail of the outside cuts in and the wall would have been thin, deepest first. */
export function Creases({ rows, wall, picked, onPick }: Props) {
  if (!rows.length) return null;
  return (
    <section aria-label="Creases" className="mt-3 text-[13px]">
      <h2 className="font-medium">Where the outside cuts in</h2>
      <ul className="mt-1 space-y-0.5">
        {rows.slice(0, FEW).map((c) => (
          <li key={c.place.join()}>
            <button
              type="button"
              className="text-left underline decoration-thread underline-offset-2 aria-pressed:font-medium"
              aria-pressed={c === picked}
              title="show it on the figure"
              onClick={() => onPick(c === picked ? null : c)}
            >
              {creaseLine(c)}
            </button>
          </li>
        ))}
      </ul>
      <p className="mt-1 text-faded">
        {rows.length > FEW && `And ${rows.length - FEW} less deep. `}
        The wall is {wall.toFixed(1)} mm there too; the dye shows what is thicker.
      </p>
    </section>
  );
}
