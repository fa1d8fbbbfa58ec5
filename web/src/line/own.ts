import type { Own, Settable } from "./api";

export const keyOf = (o: Settable) => `${o.table} ${o.name}`;

/** What is wrong with a number that was typed for a setting; null where nothing is. */
export function wrongOf(o: Settable, typed: string): string | null {
  const value = Number(typed.replace(",", "."));
  if (typed.trim() === "" || !Number.isFinite(value)) return `${o.title}: type a number.`;
  if (value < o.low || value > o.high)
    return `${o.title}: from ${o.low} to ${o.high} ${o.unit}`.trim() + ".";
  if (o.whole && !Number.isInteger(value)) return `${o.title}: a whole number.`;
  return null;
}

/** Settings by table and field, of what was typed. */
export function asOwn(chosen: Settable[], typed: Record<string, string>): Own {
  const of = (table: Settable["table"]) =>
    Object.fromEntries(
      chosen
        .filter((o) => o.table === table)
        .map((o) => [o.name, Number(typed[keyOf(o)].replace(",", "."))]),
    );
  return { printers: of("printers"), materials: of("materials") };
}
