import { useEffect, type ReactNode } from "react";
import { useHotkeys } from "react-hotkeys-hook";
import { useAddress } from "../../shell/address";

/** The parts of a proof in their order: the name in the address, the title, the key. */
export const PARTS = [
  ["prints", "A thousand prints", "p"],
  ["hazards", "What can go wrong", "w"],
  ["layers", "Every layer", "y"],
  ["off", "Off they come", "o"],
  ["files", "Files", "f"],
] as const;
type Part = (typeof PARTS)[number][0];

const idOf = (part: Part) => `part-${part}`;
const goTo = (part: Part) =>
  document.getElementById(idOf(part))?.scrollIntoView({ block: "start" });

/** Where each part of the proof lies: pressed, by its key, or by an address that ends in `?part=`. */
export function PartLinks({ ready }: { ready: boolean }) {
  const { search, put } = useAddress();
  const here = search.get("part");
  const go = (part: Part) => {
    put({ part });
    goTo(part);
  };
  useHotkeys(
    PARTS.map(([, , key]) => key).join(),
    (_, { keys }) => {
      const asked = PARTS.find(([, , key]) => keys?.includes(key));
      if (asked) go(asked[0]);
    },
    { enabled: ready },
  );
  useEffect(() => {
    const asked = PARTS.find(([name]) => name === here);
    if (ready && asked) goTo(asked[0]);
    // The address says where to begin; what is pressed later goes there by itself.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [ready]);
  return (
    <nav aria-label="Parts of the proof" className="mb-2 flex flex-wrap gap-x-4 text-[13px]">
      {PARTS.map(([name, title, key]) => (
        <button
          key={name}
          type="button"
          disabled={!ready}
          aria-current={here === name ? "location" : undefined}
          className="text-indigo underline decoration-thread underline-offset-2 aria-[current=location]:font-medium"
          onClick={() => go(name)}
        >
          {title} <kbd className="text-[11px]">{key.toUpperCase()}</kbd>
        </button>
      ))}
    </nav>
  );
}

/** A part under its title. */
export function ProofPart({ name, children }: { name: Part; children: ReactNode }) {
  const title = PARTS.find(([part]) => part === name)?.[1];
  return (
    <section id={idOf(name)} aria-labelledby={`${idOf(name)}-title`} className="scroll-mt-2 pt-1">
      <h2 id={`${idOf(name)}-title`} className="text-[17px]">
        {title}
      </h2>
      {children}
    </section>
  );
}
