import { useState } from "react";
import type { PoseBoard } from "../../api/documents";
import type { Ranked, Weighed } from "../PoseFold";
import { PoseMap } from "./PoseMap";
import type { Down } from "./globe";
import { digits, poseName, UNIT, WEIGHTS } from "./words";

interface Props { data: PoseBoard; ranked: Ranked | null; shown: number; hand: Down | null; said: Weighed | null; priorities: Record<string, number>; waiting: boolean; onPriorities: (p: Record<string, number>) => void; onPick: (d: Down) => void; onPin: (i: number) => void; onHover: (i: number | null) => void; onHand: () => void }

/** All directions at once: the map, what may be weighed otherwise, and what the way shown costs. */
export function MapView({ data, ranked, shown, hand, said, priorities, waiting, onPriorities, onPick, onPin, onHover, onHand }: Props) {
  const [dyed, setDyed] = useState("wish");
  const [hovered, setHovered] = useState<number | null>(null);
  const { map } = data;
  const wish = ranked?.wish ?? map.wish;
  const rows = WEIGHTS["lean" in wish || "slender" in wish || "weak_mm" in wish ? "filament" : "resin"];
  const values = dyed === "wish" ? ranked?.merit ?? map.merit : map.aims[dyed];
  const pins = ranked ? ranked.candidates.map((c, i) => ({ down: c.down as Down, text: poseName(c.down), recommended: i === ranked.recommended })) : data.candidates.map((c, i) => ({ down: c.down as Down, text: poseName(c.down), recommended: i === data.recommended }));
  const best = ranked ? ranked.candidates[ranked.recommended].aims : data.candidates[data.recommended].metrics;
  const told: Record<string, number> | null = hand ? said?.aims ?? null : hovered != null ? Object.fromEntries(Object.entries(map.aims).map(([k, v]) => [k, v[hovered]])) : ranked ? ranked.candidates[Math.min(shown, ranked.candidates.length - 1)].aims : (data.candidates[shown].metrics as Record<string, number>);
  const down = hand ?? (hovered != null ? map.down[hovered] : ranked ? ranked.candidates[Math.min(shown, ranked.candidates.length - 1)].down : data.candidates[shown].down);
  return (
    <div className="grid grid-cols-[388px_minmax(0,1fr)] gap-x-6">
      <div>
        <label className="mb-1.5 flex items-center gap-2 text-[13px]"><span className="text-faded">Dyed by</span>
          <select className="field min-h-[28px] py-0.5" value={dyed} onChange={(e) => setDyed(e.target.value)}>
            <option value="wish">your priorities together</option>
            {Object.keys(map.aims).map((aim) => <option key={aim} value={aim}>{map.names[aim]}</option>)}
          </select>
          <span className="ml-auto flex items-center gap-1 text-[12px] text-faded">good<svg width="60" height="11" aria-hidden>{Array.from({ length: 6 }, (_, i) => <rect key={i} x={i * 10} width="10" height="11" fill={`color-mix(in srgb, #20375f ${i * 18}%, #faf7ef)`} stroke="var(--thread)" strokeWidth="0.4" />)}</svg>bad</span>
        </label>
        <PoseMap map={map} values={values} better={dyed === "foot_mm2" ? "large" : "small"} front={ranked?.front ?? map.front} pins={pins} shown={hand ? -1 : shown} hand={hand} onPick={onPick} onPin={onPin} onHover={(i) => { setHovered(i); onHover(i); }} />
        <p className="mt-0.5 text-[12px] leading-snug text-faded"><svg width="9" height="9" aria-hidden className="mr-1 inline"><path d="M4.5 .8l3.6 3.7-3.6 3.7L.9 4.5z" fill="var(--moss)" /></svg>no other beats it: {(ranked?.front ?? map.front).length} of {map.down.length}. Up: leans back; down: forward.</p>
        <fieldset className="mt-1 grid grid-cols-2 gap-x-4">
          <legend className="mb-0.5 font-display text-[16px] text-indigo">What counts more <span className="font-sans text-[12px] text-faded">priors until you move them</span></legend>
          {rows.map(([aim, text]) => (
            <label key={aim} className="flex items-center gap-1.5 text-[12.5px]"><span className="w-[102px] whitespace-nowrap">{text}</span><input type="range" min="0" max="3" step="0.1" value={priorities[aim] ?? map.wish[aim] ?? 0} aria-valuetext={(priorities[aim] ?? map.wish[aim] ?? 0).toFixed(1)} className="min-w-0 flex-1 accent-(--indigo)" onChange={(e) => onPriorities({ ...priorities, [aim]: Number(e.target.value) })} /></label>
          ))}
        </fieldset>
      </div>
      <section aria-live="polite" className="min-w-0">
        <h2 className="text-[17px]">{poseName(down)}</h2>
        <p className="text-[12.5px] text-faded">{hand ? "Turned by hand. Beside the recommended one:" : hovered != null ? "Under the pointer. Click to take it into the hand." : ranked ? "Ranked anew, at once; its layers are not read yet." : waiting ? "Its layers are being read." : `Row ${shown + 1} of the board.`}</p>
        {told && (
          <table className="mt-1 w-full text-[13px]"><tbody>
            {rows.map(([aim]) => {
              const worse = told[aim] > best[aim] + 1e-6;
              const same = Math.abs(told[aim] - best[aim]) < 1e-6 + 0.005 * Math.abs(best[aim]);
              return <tr key={aim} className="border-b border-thread/60"><td className="py-[1px] text-faded">{map.names[aim]}</td><td className="text-right">{digits(aim, told[aim])} {UNIT[aim]}</td><td className={`w-[76px] text-right text-[12px] ${same ? "text-faded" : worse ? "text-persimmon" : "text-moss"}`}>{same ? "as best" : `${worse ? "▲" : "▽"} ${digits(aim, Math.abs(told[aim] - best[aim]))}`}</td></tr>;
            })}
          </tbody></table>
        )}
        {hand ? (
          <>
            <h3 className="mt-1.5 text-[15px]">Why not this way?</h3>
            <ul className="text-[12.5px] leading-snug">{said?.why.slice(0, 4).map((w) => <li key={w} className={w.includes("worse") ? "text-persimmon" : "text-moss"}>{w}</li>)}{said && !said.why.length && <li>It is the recommended way, within what can be told.</li>}{said && !said.fits && <li className="text-persimmon">Too tall for the printer this way.</li>}</ul>
          </>
        ) : <p className="mt-2"><button type="button" className="quiet px-2.5" onClick={onHand}>Turn it by hand</button></p>}
      </section>
    </div>
  );
}
