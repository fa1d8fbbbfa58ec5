import type { Hole, Judged } from "../../api/client";

interface Props {
  holes: Hole[];
  chosen: number | null;
  placing: boolean;
  judged: Judged | null;
  onChosen: (index: number | null) => void;
  onHoles: (holes: Hole[]) => void;
  onPlacing: (on: boolean) => void;
}

const ml = (v: number) => (v < 0.005 ? "nothing" : `${v.toFixed(2)} ml`);
const span = (s: number) =>
  s < 1 ? "under a second" : s >= 90 ? `${(s / 60).toFixed(0)} min` : `${s.toFixed(0)} s`;

/** How the fluid that it is washed with comes out again. */
function washed(c: Judged["cavities"][number]): string {
  if (c.wash_s == null) return "";
  const clings = c.wash_clings_ml >= 0.005 ? `, ${ml(c.wash_clings_ml)} cling` : "";
  return ` Washing fluid: ${span(c.wash_s)}${clings}.`;
}

/** What each cavity does with the holes as they are set. */
function Said({ judged }: { judged: Judged }) {
  return (
    <ul className="space-y-1 text-[13px]">
      {judged.cavities.map((c, i) => {
        const [first, then] = judged.turns[i];
        return (
          <li key={i}>
            {judged.cavities.length > 1 && <b className="font-medium">Cavity {i + 1}: </b>}
            {(c.volume_mm3 / 1000).toFixed(1)} ml, wall {c.min_wall_mm.toFixed(2)} mm at its
            thinnest.{" "}
            {c.holes.length === 0 ? (
              <span className="text-persimmon">Closed: it stays full.</span>
            ) : (
              <>
                {c.vented ? "Air comes in. " : "No air comes in. "}
                {c.drain_s != null && `Runs out in ${span(c.drain_s)}. `}
                {c.clings_ml >= 0.005 && `${ml(c.clings_ml)} cling in the hole. `}
                {first && `Held so, ${ml(first.left_ml)} stays`}
                {then && `; turned again, ${ml(then.left_ml)}`}
                {first && "."}
                {washed(c)}
              </>
            )}
          </li>
        );
      })}
      {judged.findings.map((f) => (
        <li
          key={f.code + f.message}
          className={`border-l-4 bg-paper px-2 py-1 ${f.severity === "severe" ? "border-persimmon" : "border-thread"}`}
        >
          {f.message}
        </li>
      ))}
    </ul>
  );
}

/** The holes of a row, to be chosen, moved, widened, taken away or added. */
export function Holes({ holes, chosen, placing, judged, onChosen, onHoles, onPlacing }: Props) {
  const one = chosen == null ? undefined : holes.at(chosen);
  const change = (diameter: number) =>
    onHoles(holes.map((h, i) => (i === chosen ? { ...h, diameter_mm: diameter } : h)));
  return (
    <div className="min-w-[240px] flex-1 space-y-2">
      <div role="group" aria-label="Holes" className="flex flex-wrap items-center gap-1.5">
        {holes.map((h, i) => (
          <button
            key={i}
            type="button"
            className="quiet px-2 text-[12.5px]"
            aria-label={`Hole ${i + 1}, ${h.diameter_mm.toFixed(1)} mm`}
            aria-pressed={i === chosen}
            onClick={() => onChosen(i === chosen ? null : i)}
          >
            {i + 1}: {h.diameter_mm.toFixed(1)} mm
          </button>
        ))}
        <button
          type="button"
          className="quiet px-2 text-[12.5px]"
          aria-pressed={placing}
          onClick={() => onPlacing(!placing)}
        >
          {placing ? "click where on the figure" : one ? "move it" : "add a hole"}
        </button>
      </div>
      {one && (
        <div className="flex flex-wrap items-center gap-2 text-[12.5px]">
          <label className="flex items-center gap-1">
            wide
            <input
              type="number"
              className="field w-20"
              min={0.5}
              max={12}
              step={0.1}
              value={one.diameter_mm}
              onChange={(e) => {
                const wide = Number(e.target.value);
                if (wide >= 0.5 && wide <= 12) change(wide);
              }}
            />
            mm
          </label>
          <button
            type="button"
            className="quiet px-2 text-[12.5px]"
            onClick={() => {
              onHoles(holes.filter((_, i) => i !== chosen));
              onChosen(null);
            }}
          >
            take it away
          </button>
        </div>
      )}
      {judged ? <Said judged={judged} /> : <p className="text-[13px] text-faded">Being judged</p>}
    </div>
  );
}
