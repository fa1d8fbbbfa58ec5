/** Numbers as people at the bench read them. */
export const mm = (v: number, digits = 2) => `${v.toFixed(digits)} mm`;
export const clock = (s: number) => `${Math.floor(Math.round(s / 60) / 60)} h ${String(Math.round(s / 60) % 60).padStart(2, "0")}`;
export const hm = (s: number) => `${Math.floor(Math.round(s / 60) / 60)}:${String(Math.round(s / 60) % 60).padStart(2, "0")}`;
export const percent = (p: number) => `${Math.round(p * 100)} %`;
export const money = (v: number) => v.toFixed(2);
export const count = (n: number) => n.toLocaleString("en");
export const micron = (v: number) => `${(v * 1000).toFixed(0)} µm`;
export const day = (iso: string) => new Date(iso).toLocaleDateString("en", { weekday: "short", day: "numeric", month: "short" });
export const hour = (iso: string) => new Date(iso).toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" });
