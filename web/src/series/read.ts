import type { SeriesWhole, Specimen } from "../api/memory";

type Doc = SeriesWhole["doc"];
export type Level = string | number | boolean;

/** A level as it is written. */
export const told = (level: Level) =>
  typeof level === "boolean" ? (level ? "yes" : "no") : String(level);

export interface Effect {
  response: string;
  factor: string;
  levels: { level: Level; estimate: number; low: number; high: number; best: number | null }[];
}

/** Effects by response and factor, each level with its chance to be the best. */
export function effectsOf(doc: Doc): Effect[] {
  const found = new Map<string, Effect>();
  for (const e of doc.effects) {
    const key = `${e.response} ${e.factor}`;
    const held = found.get(key) ?? { response: e.response, factor: e.factor, levels: [] };
    const best = doc.best.find(
      (b) => b.response === e.response && b.factor === e.factor && told(b.level) === told(e.level),
    );
    held.levels.push({ ...e, best: best?.chance ?? null });
    found.set(key, held);
  }
  return [...found.values()];
}

export interface Swatch {
  row: string;
  column: string;
  cell: number | null;
}

export interface Book {
  rows: string[];
  columns: string[];
  /** Which factors its rows and its columns are. */
  down: string[];
  across: string | null;
  at: (row: string, column: string) => number | null;
}

/** The cells as a swatch book: the last factor across, all others down. */
export function bookOf(spec: SeriesWhole["spec"], doc: Doc): Book {
  const names = Object.keys(spec.factors);
  const across = names.length > 1 ? (names.at(-1) ?? null) : null;
  const down = names.filter((name) => name !== across);
  const rowOf = (factors: Record<string, Level>) => down.map((n) => told(factors[n])).join(", ");
  const columnOf = (factors: Record<string, Level>) => (across ? told(factors[across]) : "");
  const all = [...doc.cells.map((c) => c.factors), ...doc.missing];
  const order = (list: string[]) => [...new Set(list)];
  const byLevel = (name: string) => spec.factors[name].map((level) => told(level));
  const rows = order(all.map(rowOf)).sort((a, b) => {
    const [x, y] = [a.split(", "), b.split(", ")];
    for (let k = 0; k < down.length; k++) {
      const levels = byLevel(down[k]);
      const by = levels.indexOf(x[k]) - levels.indexOf(y[k]);
      if (by) return by;
    }
    return 0;
  });
  const places = new Map(
    doc.cells.map((c, i) => [`${rowOf(c.factors)}|${columnOf(c.factors)}`, i] as const),
  );
  return {
    rows,
    columns: across ? byLevel(across) : [""],
    down,
    across,
    at: (row, column) => places.get(`${row}|${column}`) ?? null,
  };
}

/** What was found of a cell's specimens of one response, as typed. */
export const foundIn = (specimens: Specimen[], cell: number, response: string): string[] =>
  specimens
    .filter((s) => s.cell === cell)
    .map((s) => {
      const value: unknown = s.found[response];
      return typeof value === "string" ? value : "";
    })
    .filter((text) => text !== "");

/** Several findings as one line: the mean of numbers, a share of yes. */
export function summed(found: string[], kind: string): string {
  if (!found.length) return "";
  if (kind === "yesno") {
    const yes = found.filter((t) => ["yes", "y", "true", "1"].includes(t.toLowerCase())).length;
    return `${yes} of ${found.length}`;
  }
  const numbers = found.map((t) => Number(t.replace(",", "."))).filter((v) => Number.isFinite(v));
  if (!numbers.length) return found.join(" ");
  const mean = numbers.reduce((a, b) => a + b, 0) / numbers.length;
  return Number(mean.toFixed(2)).toString();
}
