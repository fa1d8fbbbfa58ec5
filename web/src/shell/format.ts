/** Numbers as people at the bench read them. */
export const mm = (v: number, digits = 2) => `${v.toFixed(digits)} mm`;

const minutesOf = (s: number) => Math.round(s / 60);
const two = (n: number) => String(n).padStart(2, "0");
export const clock = (s: number) => `${Math.floor(minutesOf(s) / 60)} h ${two(minutesOf(s) % 60)}`;
export const hm = (s: number) => `${Math.floor(minutesOf(s) / 60)}:${two(minutesOf(s) % 60)}`;
export const percent = (p: number) => `${Math.round(p * 100)} %`;
export const count = (n: number) => n.toLocaleString("en");
export const micron = (v: number) => `${(v * 1000).toFixed(0)} µm`;

/** Real time over planned, in words. */
export function timesPlanned(ratio: number): string {
  const share = Math.abs(ratio - 1) * 100;
  if (share < 0.5) return "as long as planned";
  return `${share.toFixed(0)} % ${ratio > 1 ? "longer" : "less"} than planned`;
}

/** What a hand has typed, with a comma or a point. */
export const parse = (text: string) => Number(text.trim().replace(",", "."));

export const day = (iso: string) =>
  new Date(iso).toLocaleDateString("en", { weekday: "short", day: "numeric", month: "short" });
export const hour = (iso: string) =>
  new Date(iso).toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" });
