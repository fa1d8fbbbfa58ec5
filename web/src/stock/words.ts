import type { Schemas } from "../api/client";
import { day } from "../shell/format";

/** An amount as one says it: grams and millilitres whole. */
export const amountOf = (amount: number, unit: string) =>
  `${Math.round(amount).toLocaleString("en")} ${unit}`;

/** How long it lasts, and for which plates. */
export function lastsLine({
  a_day,
  days,
  before,
  needed,
  unit,
}: Pick<Schemas["StockRow"], "a_day" | "days" | "before" | "needed" | "unit">): string {
  const pace =
    days == null
      ? "Nothing of it was used lately."
      : `${a_day.toFixed(1)} ${unit} a day lately: it lasts some ${Math.round(days)} days.`;
  if (before) return `It runs out before ${before}. ${pace}`;
  return needed ? `Enough for the ${amountOf(needed, unit)} of plates that wait. ${pace}` : pace;
}

/** The latest note of a lot. */
export const didWords = ({ did, amount, at }: Schemas["StepRow"], unit: string) =>
  `${day(at)}: ${amountOf(amount, unit)} ${did}.`;
