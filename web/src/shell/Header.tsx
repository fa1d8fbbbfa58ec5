import { createPortal } from "react-dom";
import { Link } from "react-router";
import { useEffect, useState } from "react";
import { useView } from "./view";

interface Act { text: string; run: () => void }
interface Trail { trail: { text: string; to?: string }[]; undo?: Act | null; redo?: Act | null }

/** What a page puts into the header: where one is, and undo and redo. */
export function Crumbs({ trail, undo, redo }: Trail) {
  const [slot, setSlot] = useState<HTMLElement | null>(null);
  const [acts, setActs] = useState<HTMLElement | null>(null);
  useEffect(() => { setSlot(document.getElementById("crumbs")); setActs(document.getElementById("acts")); }, []);
  return (
    <>
      {slot && createPortal(<>{trail.map((t, i) => <span key={i}> <span className="text-thread">/</span> {t.to ? <Link to={t.to}>{t.text}</Link> : <span>{t.text}</span>}</span>)}</>, slot)}
      {acts && createPortal(
        <>
          <button type="button" disabled={!undo} onClick={undo?.run} title={undo?.text ?? "Nothing to undo"}>Undo <kbd>Z</kbd></button>
          <button type="button" disabled={!redo} onClick={redo?.run} title={redo?.text ?? "Nothing to redo"}>Redo <kbd>⇧ Z</kbd></button>
        </>, acts)}
    </>
  );
}

export function Header() {
  const { setPalette, setKeys, theme, setTheme } = useView();
  return (
    <header className="flex h-[46px] shrink-0 items-center border-b border-thread px-8">
      <Link to="/" className="font-display text-[23px] font-bold tracking-[0.02em] text-indigo">Tenugui</Link>
      <div className="ml-5 text-[14px] text-faded"><Link to="/" className="hover:underline">Bench</Link><span id="crumbs" /></div>
      <div className="ml-auto flex items-center gap-5 text-[13.5px] text-faded">
        <button type="button" onClick={() => setPalette(true)}>Find anything <kbd>Ctrl K</kbd></button>
        <span id="acts" className="flex gap-5" />
        <Link to="/log">Log</Link>
        <Link to="/settings">Settings</Link>
        <button type="button" onClick={() => setTheme(theme === "day" ? "night" : "day")} aria-label={theme === "day" ? "Change to night" : "Change to day"}>{theme === "day" ? "Night" : "Day"}</button>
        <button type="button" onClick={() => setKeys(true)}>Keys <kbd>?</kbd></button>
      </div>
    </header>
  );
}
