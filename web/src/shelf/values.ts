import type { Schemas } from "../api/client";

export type Field = Schemas["FormField"];
/** What is typed, by field: one text for each number of it. */
export type Typed = Record<string, string[]>;

const shown = (v: unknown) => (typeof v === "number" ? String(+v.toPrecision(9)) : "");

/** The texts of a machine or a material as it is kept; defaults where it is new. */
export function typedOf(fields: readonly Field[], spec: Record<string, unknown>): Typed {
  return Object.fromEntries(
    fields.map((f) => {
      const value = spec[f.name] ?? f.default;
      const each: unknown[] = Array.isArray(value) ? value : [value];
      return [f.name, Array.from({ length: f.many }, (_, i) => shown(each[i]))];
    }),
  );
}

/** What is wrong with a field as it is typed; null where nothing is. */
export function wrongWith(f: Field, texts: readonly string[]): string | null {
  const empty = texts.filter((t) => !t.trim()).length;
  if (empty === texts.length && f.optional) return null;
  if (empty) return "a number is missing";
  const numbers = texts.map(Number);
  if (numbers.some((v) => !Number.isFinite(v))) return "not a number";
  if (f.kind === "whole" && numbers.some((v) => !Number.isInteger(v))) return "whole numbers only";
  if (numbers.some((v) => v > f.high || v < f.low || (f.above && v === f.low)))
    return `${f.above ? "above" : "from"} ${String(f.low)} to ${f.high.toLocaleString("en")}`;
  return null;
}

/** The machine or material that is typed, as it is kept. */
export function specOf(
  fields: readonly Field[],
  typed: Typed,
  name: string,
  process: string,
): Record<string, unknown> {
  const spec: Record<string, unknown> = { name: name.trim(), process };
  for (const f of fields) {
    const texts = typed[f.name];
    if (texts.every((t) => !t.trim())) continue;
    spec[f.name] = f.many > 1 ? texts.map(Number) : Number(texts[0]);
  }
  return spec;
}
