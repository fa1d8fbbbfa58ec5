import { Command } from "cmdk";
import { Dialog } from "radix-ui";
import type { ReactNode } from "react";
import { useHotkeys } from "react-hotkeys-hook";
import { useLocation, useNavigate } from "react-router";
import { useFigures, useFolds } from "../api/queries";
import { useView } from "./view";

const KEYS: [string, string][] = [
  ["Ctrl K", "find anything"],
  ["?", "this list"],
  ["B", "the bench"],
  ["L", "the log"],
  ["D", "day and night"],
  ["1 to 8", "the folds, in order"],
  ["J, K", "walk the board"],
  ["M", "in Pose: the map and the board"],
  ["P W Y O F", "in Proof: prints, what can go wrong, every layer, off they come, files"],
  ["N, Shift N", "in Proof: the next layer worth a look, the one before"],
  [", .", "in Proof: a layer down, a layer up"],
  ["N, Shift N, Del", "in Supports: the next tip, the one before, take it away"],
  ["Enter", "take the row shown"],
  ["1 to 6, Enter", "in Drills: pick A to F, answer and go on"],
  ["Z, Shift Z", "undo, redo a decision"],
  ["S, H, F, K, O, X", "in Marks: which mark"],
  ["A, C, E", "in Marks: brush, to the creases, flat face"],
  ["[ ]", "in Marks: a smaller, a wider brush"],
  ["← →", "on the strip: one layer; on the turntable: turn"],
  ["Page up, down", "on the strip: twenty layers"],
  ["Home, End", "on the strip: first and last layer"],
  ["Esc", "on the strip: the whole figure again"],
];

interface SheetProps {
  open: boolean;
  onOpen: (open: boolean) => void;
  title: string;
  children: ReactNode;
}

function Sheet({ open, onOpen, title, children }: SheetProps) {
  return (
    <Dialog.Root open={open} onOpenChange={onOpen}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-[color-mix(in_srgb,var(--ink)_28%,transparent)]" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed top-[10vh] left-1/2 z-50 max-h-[84vh] w-[560px] max-w-[92vw] -translate-x-1/2 overflow-y-auto border border-thread bg-paper"
        >
          <Dialog.Title className="border-b border-thread px-5 py-2.5 font-display text-[19px] text-indigo">
            {title}
          </Dialog.Title>
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
        {KEYS.map(([k, text]) => (
          <div key={k} className="contents">
            <dt>
              <kbd>{k}</kbd>
            </dt>
            <dd>{text}</dd>
          </div>
        ))}
      </dl>
    </Sheet>
  );
}

const ITEM =
  "flex cursor-pointer items-baseline justify-between gap-4 px-5 py-2 data-[selected=true]:bg-folded";
const Group = ({ title, children }: { title: string; children: ReactNode }) => (
  <Command.Group heading={<span className="px-5 text-[12px] text-faded">{title}</span>}>
    {children}
  </Command.Group>
);

export function Palette() {
  const { palette, setPalette, theme, setTheme, setDye, setKeys } = useView();
  const figures = useFigures().data ?? [];
  const folds = useFolds();
  const go = useNavigate();
  const here = /^\/plan\/(\d+)/.exec(useLocation().pathname)?.[1];
  const item = (text: string, act: () => unknown, more?: { value?: string; note?: string }) => (
    <Command.Item
      key={more?.value ?? text}
      value={more?.value ?? text}
      className={ITEM}
      onSelect={() => {
        setPalette(false);
        act();
      }}
    >
      {text}
      {more?.note && <span className="text-[12.5px] text-faded">{more.note}</span>}
    </Command.Item>
  );
  const other = theme === "day" ? "night" : "day";
  return (
    <Sheet open={palette} onOpen={setPalette} title="Find anything">
      <Command label="Find anything" loop>
        <Command.Input
          placeholder="a figure, a fold, something to do"
          className="w-full border-b border-thread bg-transparent px-5 py-3 text-[16px] outline-none"
        />
        <Command.List className="max-h-[50vh] overflow-y-auto py-1">
          <Command.Empty className="px-5 py-3 text-faded">Nothing is called that.</Command.Empty>
          {here && (
            <Group title="folds of this plan">
              {item("Line of decisions: go back, compare", () => go(`/line/${here}`))}
              {item("Cut the figure into parts", () => go(`/cut/${here}`))}
              {folds.map((f) =>
                item(f.title, () => go(`/plan/${here}/${f.name}`), { value: `fold ${f.title}` }),
              )}
            </Group>
          )}
          <Group title="figures">
            {figures.map((f) =>
              item(f.name, () => f.plan_id && go(`/plan/${f.plan_id}`), {
                value: `${f.name} ${f.id}`,
                note: f.next ? `next: ${f.next.title}` : "",
              }),
            )}
          </Group>
          <Group title="do">
            {item("Go to the bench", () => go("/"))}
            {item("Open the log", () => go("/log"))}
            {item("The week: what is ready when", () => go("/week"))}
            {item("Plates: what lies together", () => go("/plates"))}
            {item("Over night: many figures planned by morning", () => go("/nights"))}
            {item("Series: what you want to know for sure", () => go("/series"))}
            {item("Drills: train the eye", () => go("/drills"))}
            {item("Shelf: printers and materials", () => go("/shelf"))}
            {item("Settings: how much may come in", () => go("/settings"))}
            {item("Bring in a figure", () => go("/?bring=1"))}
            {item(`Change to ${other}`, () => setTheme(other))}
            {(["plain", "ceilings", "steps", "x-ray"] as const).map((d) =>
              item(`Dye the figure: ${d === "plain" ? "relief" : d}`, () => setDye(d)),
            )}
            {item("The craft in ten pages, to read or print", () => go("/craft"))}
            {item("Priors: all that is assumed", () => go("/priors"))}
            {item("Words: what is meant by it", () => go("/words"))}
            {item("The first hour, step by step", () => go("/?hour=1"))}
            {item("Show the keys", () => setKeys(true))}
          </Group>
        </Command.List>
      </Command>
    </Sheet>
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
