import { create } from "zustand";
import { problemOf } from "../api/client";

export interface Toast {
  id: number;
  text: string;
  remedy?: string;
  bad?: boolean;
  action?: { label: string; run: () => void };
}

export type Dye =
  "plain" | "ceilings" | "steps" | "x-ray" | "thickness" | "marks" | "scars" | "gaps";

interface View {
  theme: "day" | "night";
  setTheme: (t: "day" | "night") => void;
  dye: Dye;
  setDye: (d: Dye) => void;
  palette: boolean;
  setPalette: (open: boolean) => void;
  keys: boolean;
  setKeys: (open: boolean) => void;
  toasts: Toast[];
  say: (t: Omit<Toast, "id">) => void;
  drop: (id: number) => void;
  /** Say what was thrown. */
  fail: (thrown: unknown) => void;
}

const MOST = 4;
const stored = localStorage.getItem("tenugui-theme");
const dark = matchMedia("(prefers-color-scheme: dark)").matches;
const first = stored === "night" || stored === "day" ? stored : dark ? "night" : "day";
document.documentElement.dataset.theme = first;
let next = 1;

export const useView = create<View>((set, get) => ({
  theme: first,
  setTheme: (theme) => {
    document.documentElement.dataset.theme = theme;
    localStorage.setItem("tenugui-theme", theme);
    set({ theme });
  },
  dye: "plain",
  setDye: (dye) => set({ dye }),
  palette: false,
  setPalette: (palette) => set({ palette }),
  keys: false,
  setKeys: (keys) => set({ keys }),
  toasts: [],
  say: (t) => set({ toasts: [...get().toasts.slice(1 - MOST), { ...t, id: next++ }] }),
  drop: (id) => set({ toasts: get().toasts.filter((t) => t.id !== id) }),
  fail: (thrown) => {
    const p = problemOf(thrown);
    get().say({ text: p.message + (p.where ? ` (${p.where})` : ""), remedy: p.remedy, bad: true });
  },
}));
