import text from "../../../docs/words.md?raw";

export interface Entry {
  /** The word as it is listed, and the forms in which it stands in sentences. */
  word: string;
  forms: string[];
  sense: string;
}

/** Rows of the table under a heading of the words' page. */
export function entriesOf(page: string, heading: string): Entry[] {
  const part = page.split(`## ${heading}\n`).at(1)?.split("\n## ")[0] ?? "";
  return part
    .split("\n")
    .filter((line) => line.startsWith("| ") && !line.startsWith("| word |"))
    .map((line) => line.split("|").map((cell) => cell.trim()))
    .map(([, words, sense]) => {
      const forms = words.split(", ");
      return { word: forms[0], forms, sense };
    });
}

export const GLOSSARY = entriesOf(text, "Said on the pages");

const SENSES = new Map(GLOSSARY.flatMap((e) => e.forms.map((form) => [form, e] as const)));
const LONGEST_FIRST = [...SENSES.keys()].sort((a, b) => b.length - a.length);
const ANY = new RegExp(`\\b(${LONGEST_FIRST.join("|")})\\b`, "gi");

export type Piece = string | { said: string; entry: Entry };

/** A sentence in pieces: what the glossary knows stands by itself, each of its entries once. */
export function piecesOf(sentence: string): Piece[] {
  const pieces: Piece[] = [];
  const seen = new Set<Entry>();
  let from = 0;
  for (const found of sentence.matchAll(ANY)) {
    const entry = SENSES.get(found[0].toLowerCase());
    if (!entry || seen.has(entry)) continue;
    seen.add(entry);
    pieces.push(sentence.slice(from, found.index), { said: found[0], entry });
    from = found.index + found[0].length;
  }
  pieces.push(sentence.slice(from));
  return pieces.filter((p) => p !== "");
}
