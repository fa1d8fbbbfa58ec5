import type { FigureRow } from "../api/client";
import { useAddress } from "../shell/address";
import { Choice } from "../ui/Choice";

/** From so many figures on they are looked for. */
const MANY = 8;
const STATES = [
  { value: "all", text: "all" },
  { value: "open", text: "need a decision" },
  { value: "ready", text: "ready to print or printed" },
  { value: "stale", text: "stale" },
] as const;
type State = (typeof STATES)[number]["value"];

const isIn: Record<State, (f: FigureRow) => boolean> = {
  all: () => true,
  open: (f) => f.next?.name !== "log",
  ready: (f) => f.next?.name === "log" && !f.stale,
  stale: (f) => f.stale,
};

/** Those of many figures that are wanted: by name, file or kit, and by where they stand. */
export const foundOf = (rows: readonly FigureRow[], words: string, state: State): FigureRow[] => {
  const wanted = words.toLowerCase().split(/\s+/).filter(Boolean);
  return rows.filter((f) => {
    const said = `${f.name} ${f.file_name} ${f.kit_name ?? ""}`.toLowerCase();
    return isIn[state](f) && wanted.every((word) => said.includes(word));
  });
};

/** What is looked for stands in the address. */
export function useFound(rows: readonly FigureRow[] | undefined) {
  const { search, put } = useAddress();
  const words = search.get("find") ?? "";
  const state = STATES.find((s) => s.value === search.get("state"))?.value ?? "all";
  return { found: foundOf(rows ?? [], words, state), words, state, put };
}

interface Props {
  rows: readonly FigureRow[];
  words: string;
  state: State;
  put: ReturnType<typeof useFound>["put"];
}

export function Find({ rows, words, state, put }: Props) {
  if (rows.length < MANY && !words && state === "all") return null;
  return (
    <div className="mb-3 flex flex-wrap items-center gap-3">
      <input
        className="field w-56"
        aria-label="Find on the bench"
        placeholder="a name, a file, a kit"
        value={words}
        onChange={(e) => put({ find: e.target.value || null })}
      />
      <Choice
        small
        label="Which figures"
        value={state}
        options={STATES}
        onValue={(s: State) => put({ state: s === "all" ? null : s })}
      />
    </div>
  );
}
