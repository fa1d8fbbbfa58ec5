import { hm, percent } from "../shell/format";
import type { Night, Row, Way } from "./api";

/** The named way first, then the others by their coins, each with its place in the row. */
export function waysOf(row: Row): { way: Way; place: number; named: boolean }[] {
  const best = row.row?.best ?? null;
  return (row.row?.ways ?? [])
    .map((way, place) => ({ way, place, named: place === best }))
    .sort((a, b) => Number(b.named) - Number(a.named) || a.way.coins - b.way.coins);
}

/** What wants a person's eye before this figure is printed. */
export function lookFirst(row: Row): string[] {
  if (!row.row) return row.problem ? [`${row.problem.what} ${row.problem.remedy}`.trim()] : [];
  const refused = row.row.refused.map((r) =>
    [r.where && `${r.where}:`, r.what, r.remedy].filter(Boolean).join(" "),
  );
  const beyond =
    row.row.best == null ? row.row.ways.map((w) => `${w.printer}: ${w.beyond.join(", ")}`) : [];
  return [...refused, ...beyond, ...row.row.look];
}

/** What is told of a way in columns. */
export const NUMBERS: [string, (way: Way) => string][] = [
  ["layer", (w) => `${w.layer_height_mm} mm`],
  ["hours", (w) => hm(w.time_s)],
  ["by hand", (w) => `${Math.round(w.hands_min)} min`],
  ["weight", (w) => `${w.mass_g.toFixed(0)} g`],
  ["supports", (w) => String(w.tips)],
  ["lost", (w) => percent(w.risk)],
  ["coins", (w) => w.coins.toFixed(1)],
];

export const underWay = (night: Night): boolean =>
  night.rows.some((r) => r.state === "running" || r.state === "waiting");

/** Rows that want a look first before those that do not, each group as it was asked for; open ones last. */
export function inOrder(rows: Row[]): Row[] {
  const rank = (r: Row) => (lookFirst(r).length ? 0 : r.state === "planned" ? 1 : 2);
  return [...rows].sort((a, b) => rank(a) - rank(b));
}

export function stateWords(row: Row): string {
  if (row.state === "running") return `${row.doing || "planning"}, ${percent(row.share)}`;
  return { waiting: "waits its turn", open: "not planned", failed: "failed", planned: "" }[
    row.state
  ];
}

/** A typed limit; nothing typed is none, nonsense is null. */
export function limitOf(text: string, most: number): number | null | undefined {
  if (!text.trim()) return undefined;
  const value = Number(text.trim().replace(",", "."));
  return value > 0 && value <= most ? value : null;
}
