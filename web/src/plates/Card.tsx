import { useState } from "react";
import { hm, mm, percent } from "../shell/format";
import type { Deeds, OnePlate, Whole } from "./api";

/** Before it is begun: what stands ready, and when to look at what; ticked off as it is done. */
export function Card({ whole, plate, deeds }: { whole: Whole; plate: OnePlate; deeds: Deeds }) {
  // A tick is seen at once, and is what the plate says as soon as it says anything.
  const [ticked, setTicked] = useState(whole.ticked);
  const [seen, setSeen] = useState(whole.version);
  if (seen !== whole.version) {
    setSeen(whole.version);
    setTicked(whole.ticked);
  }
  const { doc } = plate;
  const vat = plate.vat_ml;
  const ml = doc.material_ml.toFixed(0);
  const grams = `${doc.material_g.toFixed(0)} g of material`;
  const left = plate.left_g == null ? null : plate.left_g.toFixed(0);
  const enough = [
    ...(vat == null
      ? []
      : [
          doc.material_ml <= vat
            ? `${ml} ml in the vat, and as much as covers its floor`
            : `${ml} ml, and a vat holds ${vat.toFixed(0)} (prior): stand by to fill it up`,
        ]),
    left == null
      ? `${grams}; nobody has counted what is left`
      : doc.material_g <= (plate.left_g ?? 0)
        ? `${grams}, ${left} g are left`
        : `${grams}, and only ${left} g are left`,
  ];
  const short = plate.left_g != null && doc.material_g > plate.left_g;
  const looks = plate.looks.map(
    (l) =>
      `at ${hm(l.at_s)}, ${mm(l.z_mm, 1)}: ${l.said}${l.chance ? ` (${percent(l.chance)}, prior)` : ""}`,
  );
  const tick = (line: string, on: boolean) => {
    const now = on ? [...ticked, line] : ticked.filter((t) => t !== line);
    setTicked(now);
    deeds.tick(now);
  };
  const list = (lines: string[]) => (
    <ul className="space-y-0.5">
      {lines.map((line) => (
        <li key={line}>
          <label className="flex items-baseline gap-2">
            <input
              type="checkbox"
              checked={ticked.includes(line)}
              onChange={(e) => tick(line, e.target.checked)}
            />
            <span className={ticked.includes(line) ? "text-faded line-through" : ""}>{line}</span>
          </label>
        </li>
      ))}
    </ul>
  );
  return (
    <section aria-label="Before you start">
      <h2 className="text-[18px]">Before you start</h2>
      {short && <p className="text-persimmon">There is not enough material left for it.</p>}
      {list([...enough, ...plate.ready])}
      <h3 className="mt-2 text-[15px]">Look at it</h3>
      {list(looks)}
    </section>
  );
}
