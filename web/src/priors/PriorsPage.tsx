import { useEffect, useState } from "react";
import { Crumbs } from "../shell/Header";
import { PRIORS } from "./table";

/** Everything that is no law, with its value, as the engine itself holds it. */
export function PriorsPage() {
  const [wanted, setWanted] = useState("");
  useEffect(() => {
    document.title = "Priors · Tenugui";
  }, []);
  const low = wanted.trim().toLowerCase();
  const found = PRIORS.filter((p) => `${p.room} ${p.name} ${p.sense}`.toLowerCase().includes(low));
  return (
    <main className="min-h-0 flex-1 overflow-y-auto px-8 py-5 max-[1100px]:px-5">
      <Crumbs trail={[{ text: "Priors" }]} />
      <h1 className="text-[27px] leading-tight">What is assumed?</h1>
      <p className="mb-3 max-w-[90ch] text-faded">
        Everything that the engine takes to be so without a law behind it, as its code holds it.
        Printers and materials have priors of their own on the shelf, and what your prints teach
        takes their place.
      </p>
      <input
        className="field mb-3 w-80"
        aria-label="Look for a prior"
        placeholder="minutes, wall, sway"
        value={wanted}
        onChange={(e) => setWanted(e.target.value)}
      />
      <table aria-label="Priors" className="w-full max-w-[1100px] text-[13.5px]">
        <thead className="text-left text-faded">
          <tr>
            <th className="w-72 font-normal">value</th>
            <th className="font-normal">what it says</th>
            <th className="w-52 font-normal">where it stands</th>
          </tr>
        </thead>
        <tbody>
          {found.map((p) => (
            <tr key={`${p.room} ${p.name}`} className="border-t border-thread align-top">
              <td className="py-1 pr-4 break-all">{p.value}</td>
              <td className="py-1 pr-4">{p.sense}</td>
              <td className="py-1 text-[12.5px] break-all text-faded">
                {p.room} · {p.name}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {found.length === 0 && <p className="text-faded">No prior is like that.</p>}
    </main>
  );
}
