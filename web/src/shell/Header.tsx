import { createPortal } from "react-dom";
import { Link } from "react-router";
import { create } from "zustand";
import { useOutside } from "../people/api";
import { Mine } from "../people/Mine";
import { Tip } from "../ui/Tip";
import { useView } from "./view";

/** Something that can be done, and its name. */
export interface Act {
  text: string;
  run: () => void;
}

interface Trail {
  trail: { text: string; to?: string }[];
  undo?: Act | null;
  redo?: Act | null;
}

const SLOTS = { crumbs: null, acts: null } as Record<"crumbs" | "acts", HTMLElement | null>;
const useSlots = create(() => SLOTS);
const crumbsHere = (crumbs: HTMLElement | null) => useSlots.setState({ crumbs });
const actsHere = (acts: HTMLElement | null) => useSlots.setState({ acts });

/** What a page puts into the header: where one is, and undo and redo. */
export function Crumbs({ trail, undo, redo }: Trail) {
  const { crumbs, acts } = useSlots();
  const steps = trail.map((t) => (
    <span key={t.text}>
      {" "}
      <span className="text-thread">/</span>{" "}
      {t.to ? <Link to={t.to}>{t.text}</Link> : <span>{t.text}</span>}
    </span>
  ));
  return (
    <>
      {crumbs && createPortal(steps, crumbs)}
      {acts &&
        (undo !== undefined || redo !== undefined) &&
        createPortal(
          <>
            <ActButton act={undo} name="Undo" keys="Z" />
            <ActButton act={redo} name="Redo" keys="⇧ Z" />
          </>,
          acts,
        )}
    </>
  );
}

function ActButton({ act, name, keys }: { act?: Act | null; name: string; keys: string }) {
  return (
    <Tip text={act?.text ?? `Nothing to ${name.toLowerCase()}`}>
      <button type="button" disabled={!act} onClick={act?.run}>
        {name} <kbd className="max-[900px]:hidden">{keys}</kbd>
      </button>
    </Tip>
  );
}

export function Header() {
  const { setPalette, setKeys, theme, setTheme } = useView();
  const outside = useOutside();
  const [here, there] = theme === "day" ? (["Night", "night"] as const) : (["Day", "day"] as const);
  return (
    <header className="flex h-[46px] shrink-0 items-center gap-5 border-b border-thread px-8 max-[1100px]:px-5">
      <Link to="/" className="font-display text-[23px] font-bold tracking-[0.02em] text-indigo">
        Tenugui
      </Link>
      <div className="min-w-0 flex-1 truncate text-[14px] text-faded">
        <Link to="/" className="hover:underline">
          Bench
        </Link>
        <span ref={crumbsHere} />
      </div>
      <div className="flex shrink-0 items-center gap-5 text-[13.5px] text-faded max-[1100px]:gap-3.5">
        {!outside && (
          <>
            <button type="button" onClick={() => setPalette(true)}>
              <span className="max-[900px]:hidden">Find anything</span>
              <span className="min-[901px]:hidden">Find</span>{" "}
              <kbd className="max-[900px]:hidden">Ctrl K</kbd>
            </button>
            <span ref={actsHere} className="flex gap-5 max-[1100px]:gap-3.5" />
            <Link to="/week">Week</Link>
            <Link to="/plates">Plates</Link>
            <Link to="/log">Log</Link>
            <Link to="/series">Series</Link>
            <Link to="/drills">Drills</Link>
            <Link to="/shelf">Shelf</Link>
            <Link to="/settings">Settings</Link>
          </>
        )}
        <button type="button" onClick={() => setTheme(there)} aria-label={`Change to ${there}`}>
          {here}
        </button>
        <button type="button" onClick={() => setKeys(true)}>
          Keys <kbd className="max-[900px]:hidden">?</kbd>
        </button>
        <Mine />
      </div>
    </header>
  );
}
