import { Command } from "cmdk";
import { Dialog } from "radix-ui";
import { useHotkeys } from "react-hotkeys-hook";
import { useLocation, useNavigate } from "react-router";
import { useFigures } from "../api/queries";
import { TITLES } from "../folds/FoldBand";
import { useView } from "./view";

const KEYS: [string, string][] = [
  ["Ctrl K", "find anything"], ["?", "this list"], ["B", "the bench"], ["L", "the log"], ["D", "day and night"],
  ["1 to 7", "the folds, in order"], ["J, K", "walk the board"], ["Enter", "take the row shown"], ["Z, Shift Z", "undo, redo a decision"],
  ["S, H, F, K, O, X", "in Marks: which mark"], ["A, C, E", "in Marks: brush, to the creases, flat face"], ["[ ]", "in Marks: a smaller, a wider brush"], ["← →", "on the strip: one layer; on the turntable: turn"], ["Page up, down", "on the strip: twenty layers"], ["Home, End", "on the strip: first and last layer"], ["Esc", "on the strip: the whole figure again"],
];

function Sheet({ open, onOpen, title, children }: { open: boolean; onOpen: (o: boolean) => void; title: string; children: React.ReactNode }) {
  return (
    <Dialog.Root open={open} onOpenChange={onOpen}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-[color-mix(in_srgb,var(--ink)_28%,transparent)]" />
        <Dialog.Content aria-describedby={undefined} className="fixed left-1/2 top-[14vh] z-50 w-[560px] max-w-[92vw] -translate-x-1/2 border border-thread bg-paper">
          <Dialog.Title className="border-b border-thread px-5 py-2.5 font-display text-[19px] text-indigo">{title}</Dialog.Title>
          {children}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

export function Keys() {
  const { keys, setKeys } = useView();
  return (
    <Sheet open={keys} onOpen={setKeys} title="Keys">
      <dl className="grid grid-cols-[auto_1fr] gap-x-6 gap-y-1.5 px-5 py-4">
        {KEYS.map(([k, text]) => <div key={k} className="contents"><dt><kbd>{k}</kbd></dt><dd>{text}</dd></div>)}
      </dl>
    </Sheet>
  );
}

const ITEM = "flex cursor-pointer items-baseline justify-between gap-4 px-5 py-2 data-[selected=true]:bg-folded";

export function Palette() {
  const { palette, setPalette, theme, setTheme, setDye, setKeys } = useView();
  const figures = useFigures().data ?? [];
  const go = useNavigate();
  const here = useLocation().pathname.match(/^\/plan\/(\d+)/)?.[1];
  const run = (act: () => void) => () => { setPalette(false); act(); };
  return (
    <Sheet open={palette} onOpen={setPalette} title="Find anything">
      <Command label="Find anything" loop>
        <Command.Input autoFocus placeholder="a figure, a fold, something to do" className="w-full border-b border-thread bg-transparent px-5 py-3 text-[16px] outline-none" />
        <Command.List className="max-h-[50vh] overflow-y-auto py-1">
          <Command.Empty className="px-5 py-3 text-faded">Nothing is called that.</Command.Empty>
          {here && <Command.Group heading={<span className="px-5 text-[12px] text-faded">folds of this plan</span>}>{Object.entries(TITLES).map(([k, t]) => <Command.Item key={k} value={`fold ${t}`} className={ITEM} onSelect={run(() => go(`/plan/${here}/${k}`))}>{t}</Command.Item>)}</Command.Group>}
          <Command.Group heading={<span className="px-5 text-[12px] text-faded">figures</span>}>{figures.map((f) => <Command.Item key={f.id} value={`${f.name} ${f.id}`} className={ITEM} onSelect={run(() => f.plan_id && go(`/plan/${f.plan_id}`))}>{f.name}<span className="text-[12.5px] text-faded">{f.next_fold ? `next: ${TITLES[f.next_fold]}` : ""}</span></Command.Item>)}</Command.Group>
          <Command.Group heading={<span className="px-5 text-[12px] text-faded">do</span>}>
            <Command.Item className={ITEM} onSelect={run(() => go("/"))}>Go to the bench</Command.Item>
            <Command.Item className={ITEM} onSelect={run(() => go("/log"))}>Open the log</Command.Item>
            <Command.Item className={ITEM} onSelect={run(() => go("/settings"))}>Settings: how much may come in</Command.Item>
            <Command.Item className={ITEM} onSelect={run(() => { go("/"); setTimeout(() => document.getElementById("pick-file")?.click(), 150); })}>Bring in a figure</Command.Item>
            <Command.Item className={ITEM} onSelect={run(() => setTheme(theme === "day" ? "night" : "day"))}>{theme === "day" ? "Change to night" : "Change to day"}</Command.Item>
            {(["plain", "ceilings", "steps", "x-ray"] as const).map((d) => <Command.Item key={d} className={ITEM} onSelect={run(() => setDye(d))}>Dye the figure: {d === "plain" ? "relief" : d}</Command.Item>)}
            <Command.Item className={ITEM} onSelect={run(() => setKeys(true))}>Show the keys</Command.Item>
          </Command.Group>
        </Command.List>
      </Command>
    </Sheet>
  );
}

export function Toasts() {
  const { toasts, drop } = useView();
  return (
    <div className="fixed bottom-4 right-6 z-50 flex w-[360px] flex-col gap-2" role="region" aria-label="Messages" aria-live="polite">
      {toasts.map((t) => (
        <div key={t.id} role={t.bad ? "alert" : "status"} className={`flex items-start gap-3 border border-thread border-l-4 bg-paper px-4 py-2.5 ${t.bad ? "border-l-persimmon" : "border-l-moss"}`}>
          <div className="min-w-0 flex-1"><p>{t.text}</p>{t.remedy && <p className="text-[13px] text-faded">{t.remedy}</p>}</div>
          {t.action && <button type="button" className="text-indigo underline" onClick={() => { t.action!.run(); drop(t.id); }}>{t.action.label}</button>}
          <button type="button" aria-label="Close" className="text-faded" onClick={() => drop(t.id)}>×</button>
        </div>
      ))}
    </div>
  );
}

export function GlobalKeys() {
  const { setPalette, setKeys, setTheme, theme } = useView();
  const go = useNavigate();
  useHotkeys("mod+k", () => setPalette(true), { preventDefault: true, enableOnFormTags: true });
  useHotkeys("shift+slash, ?", () => setKeys(true), { useKey: true });
  useHotkeys("b", () => void go("/"));
  useHotkeys("l", () => void go("/log"));
  useHotkeys("d", () => setTheme(theme === "day" ? "night" : "day"), [theme]);
  return null;
}
