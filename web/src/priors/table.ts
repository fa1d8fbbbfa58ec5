import text from "../../../docs/priors.md?raw";

export interface Prior {
  room: string;
  name: string;
  value: string;
  sense: string;
}

const bare = (cell: string) => cell.replace(/^`|`$/g, "");

/** Rows of the printed table of priors. */
export function priorsOf(page: string): Prior[] {
  return page
    .split("\n")
    .filter((line) => line.startsWith("| ") && !line.startsWith("| room |"))
    .map((line) =>
      line
        .slice(1, -1)
        .split(/(?<!\\)\|/)
        .map((cell) => cell.trim().replaceAll("\\|", "|")),
    )
    .map(([room, name, value, ...sense]) => ({
      room,
      name: bare(name),
      value: bare(value),
      sense: sense.join("|"),
    }));
}

export const PRIORS = priorsOf(text);
