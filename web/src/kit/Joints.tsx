import { inCoins } from "../shell/coin";
import { Link } from "react-router";
import type { Schemas } from "../api/client";
import { clock, percent } from "../shell/format";

type Kit = Schemas["Kit"];
type Joint = Schemas["JointRow"];

/** Joints of a kit that was cut, and the figure in one piece beside it. */
export function Joints({ kit }: { kit: Kit }) {
  return (
    <section aria-label="Joints" className="mt-4">
      <h2 className="text-[18px]">Joints</h2>
      <ul>
        {(kit.joints ?? []).map((j) => (
          <li key={j.names.join()} className="border-b border-thread py-1.5 text-[13.5px]">
            {jointLine(j)}
          </li>
        ))}
      </ul>
      {kit.ways && (
        <table className="mt-3 w-full text-[14px]" aria-label="In one piece, and in parts">
          <thead>
            <tr className="text-left text-[13px] text-faded">
              <th />
              <th className="pb-1 font-normal">
                <Link className="underline" to={`/plan/${kit.cut_of}`}>
                  in one piece
                </Link>
              </th>
              <th className="pb-1 font-normal">in parts, joints with it</th>
            </tr>
          </thead>
          <tbody>
            {MEASURES.map(([name, of]) => (
              <tr key={name} className="border-t border-thread">
                <td className="py-1 pr-3 text-faded">{name}</td>
                {kit.ways?.map((way, k) => (
                  <td key={k}>{way.machine_h > 0 ? of(way) : "not planned yet"}</td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {kit.ways && <p className="mt-1 text-[13px] text-faded">{openLine(kit.ways)}</p>}
    </section>
  );
}

type Way = NonNullable<Kit["ways"]>[number];
const MEASURES: [string, (w: Way) => string][] = [
  ["minutes by hand", (w) => w.hands_min.toFixed(0)],
  ["machine", (w) => clock(w.machine_h * 3600)],
  ["all in all, usual rates", (w) => inCoins(w.coins)],
  ["all whole at the first print", (w) => percent(w.whole)],
];

/** What is in the figures and what is not. */
export function openLine([whole, parts]: [Way, Way]): string {
  const open = whole.open + parts.open;
  const chances = "Minutes of joints and chances are priors.";
  if (!open) return chances;
  const [have, are] = open === 1 ? ["has", "is"] : ["have", "are"];
  return `${open} of these plans ${have} no supports yet and ${are} not counted. ${chances}`;
}

/** A joint in words. */
export function jointLine({ names, area_mm2, seam_mm, minutes, peg, pegless }: Joint): string {
  const held = peg
    ? `a keyed peg of ${peg.width_mm.toFixed(1)} by ${peg.length_mm.toFixed(1)} mm`
    : (pegless ?? "no peg");
  const seam = `${area_mm2.toFixed(0)} mm², seam ${seam_mm.toFixed(0)} mm, ${minutes.toFixed(0)} min`;
  return `${names[0]} and ${names[1]}: ${seam}; ${held}`;
}
