/** The page of the craft as blocks: a few forms of Markdown, and no more than that. */
export type Block =
  | { kind: "text"; text: string }
  | { kind: "list"; rows: string[] }
  | { kind: "schools"; rows: string[][] }
  | { kind: "caution"; text: string }
  | { kind: "drawing"; name: string; text: string };

export interface Page {
  title: string;
  blocks: Block[];
}

const joined = (lines: string[], start: RegExp) =>
  lines.map((line) => line.replace(start, "").trim()).join(" ");

function blockOf(lines: string[]): Block {
  const [first] = lines;
  const drawing = /^!\[(\w+)\]\((.*)\)$/.exec(lines.join(" "));
  if (drawing) return { kind: "drawing", name: drawing[1], text: drawing[2] };
  if (first.startsWith("> ")) return { kind: "caution", text: joined(lines, /^> ?/) };
  if (first.startsWith("|")) {
    const rows = lines.filter((line) => !/^\|[-|]+\|$/.test(line));
    const cells = rows.map((line) => line.split("|").slice(1, -1));
    return { kind: "schools", rows: cells.map((row) => row.map((cell) => cell.trim())) };
  }
  if (first.startsWith("- ")) {
    const rows: string[][] = [];
    for (const line of lines) {
      if (line.startsWith("- ")) rows.push([line]);
      else rows.at(-1)?.push(line);
    }
    return { kind: "list", rows: rows.map((row) => joined(row, /^- /)) };
  }
  return { kind: "text", text: joined(lines, /^/) };
}

/** What stands before the first heading, and the pages under each. */
export function pagesOf(text: string): { before: string; pages: Page[] } {
  const [head, ...parts] = text.split(/^## /m);
  const pages = parts.map((part) => {
    const [title, ...rest] = part.split("\n");
    const blocks = rest.join("\n").split(/\n\s*\n/);
    const filled = blocks.map((b) => b.split("\n").filter((line) => line.trim()));
    return { title, blocks: filled.filter((lines) => lines.length).map(blockOf) };
  });
  return { before: head.split("\n").slice(1).join(" ").trim(), pages };
}

/** A sentence with what stands between stars apart. */
export const starred = (text: string): { text: string; strong: boolean }[] =>
  text.split("*").map((piece, k) => ({ text: piece, strong: k % 2 === 1 }));
