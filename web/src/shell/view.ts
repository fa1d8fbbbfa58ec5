import { create } from "zustand";
import type { Problem } from "../api/client";

export interface Toast { id: number; text: string; remedy?: string; bad?: boolean; action?: { label: string; run: () => void } }

interface View {
  theme: "day" | "night"; setTheme: (t: "day" | "night") => void;
  dye: "plain" | "ceilings" | "steps" | "x-ray" | "thickness" | "marks" | "scars"; setDye: (d: View["dye"]) => void;
  palette: boolean; setPalette: (open: boolean) => void;
  keys: boolean; setKeys: (open: boolean) => void;
  toasts: Toast[]; say: (t: Omit<Toast, "id">) => void; drop: (id: number) => void; fail: (p: Problem) => void;
}

const stored = localStorage.getItem("tenugui-theme");
const first = stored === "night" || stored === "day" ? stored : matchMedia("(prefers-color-scheme: dark)").matches ? "night" : "day";
document.documentElement.dataset.theme = first;
let next = 1;

export const useView = create<View>((set, get) => ({
  theme: first,
  setTheme: (theme) => {
    document.documentElement.dataset.theme = theme;
    localStorage.setItem("tenugui-theme", theme);
    set({ theme });
  },
  dye: "plain", setDye: (dye) => set({ dye }),
  palette: false, setPalette: (palette) => set({ palette }),
  keys: false, setKeys: (keys) => set({ keys }),
  toasts: [],
  say: (t) => {
    const id = next++;
    set({ toasts: [...get().toasts.slice(-3), { ...t, id }] });
    setTimeout(() => get().drop(id), t.bad ? 12000 : 6000);
  },
  drop: (id) => set({ toasts: get().toasts.filter((t) => t.id !== id) }),
  fail: (p) => get().say({ text: p.message + (p.where ? ` (${p.where})` : ""), remedy: p.remedy, bad: true }),
}));
