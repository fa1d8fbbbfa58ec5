import type { Schemas } from "../api/client";

export type Part = Schemas["KitPart"];
export type Show = "all" | "made" | "missing";

/** Whether as many of a part are there as are wanted. */
export const isMade = (p: Pick<Part, "whole" | "wanted" | "by_hand">) =>
  p.by_hand !== "nothing" || p.whole >= p.wanted;

export const shownBy = (show: Show, p: Part) =>
  show === "all" || (show === "made" ? isMade(p) : !isMade(p));

/** How much of a kit is there. */
export function countLine(parts: Part[]): string {
  const made = parts.filter(isMade).length;
  const spare = parts.reduce((n, p) => n + Math.max(0, p.whole - p.wanted), 0);
  const there =
    made === parts.length ? "All of it is there" : `${made} of ${parts.length} parts are there`;
  return `${there}${spare ? `, and ${spare} spare` : ""}.`;
}

/** What is there of a part, beside what is wanted. */
export function partLine(p: Part): string {
  const failed = p.failed ? `, ${p.failed} failed` : "";
  const spare = p.whole > p.wanted ? `, ${p.whole - p.wanted} spare` : "";
  return `${p.whole} of ${p.wanted}${spare}${failed}`;
}
