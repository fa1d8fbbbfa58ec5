import type { SupportsRow } from "../../api/client";
import { chanceOf } from "./RiskDial";

const WORDS = ["Held by all means", "Held well", "As few as hold"];
const CHANCES: Partial<Record<string, string>> = {
  "0.01": "one tip in a hundred may fail",
  "0.05": "one tip in twenty may fail",
  "0.2": "one tip in five may fail",
};

const STYLES: Partial<Record<string, [string, string]>> = {
  trees: ["In trees", "fewer trunks, which come off together"],
  mixed: ["Mixed", "trees under what is high, pillars under the rest"],
  came: ["As they came", "the very supports of the file"],
  areas: [
    "On areas",
    "wide undersides each carried by one body with an interface, pins for the rest",
  ],
  blocks: ["In blocks", "columns grown together, the firmest and the most to sand"],
};

/** What a row is called. */
export const nameOf = (c: SupportsRow, i: number) =>
  c.own ? "Yours" : (STYLES[c.style]?.[0] ?? WORDS[i]);

const changes = (n: number) => (n === 1 ? "one change" : `${n} changes`);
/** What a row is, in a line. */
export const rowLine = (c: SupportsRow) => {
  const style = STYLES[c.style];
  const chance = CHANCES[c.risk] ?? chanceOf(c.risk);
  if (c.own) {
    const told = `${chance}${style ? `, ${style[0].toLowerCase()}` : ""}`;
    return c.edits.length ? `${changes(c.edits.length)} by hand; else ${told}` : told;
  }
  return style ? `${chance}; ${style[1]}` : chance;
};
