import type { SupportsRow } from "../../api/client";
import { Choice } from "../../ui/Choice";
import type { Mode, useByHand } from "./useByHand";

const MODES = [
  { value: "off", text: "as they are" },
  { value: "add", text: "put a tip" },
  { value: "remove", text: "take one away" },
] as const satisfies readonly { value: Mode; text: string }[];

const REASONS: [string, string][] = [
  ["island", "under what starts in mid air"],
  ["overhang", "under slopes"],
  ["load", "for the pull"],
  ["hold", "where you marked it"],
  ["hand", "by hand"],
];

/** Why tips are there, counted. */
export function reasonsOf(row: SupportsRow): string {
  const many = (of: string) => row.spots.filter((s) => s.reason === of).length;
  return REASONS.map(([reason, words]) => [many(reason), words] as const)
    .filter(([n]) => n > 0)
    .map(([n, words]) => `${n} ${words}`)
    .join(", ");
}

interface Props {
  row: SupportsRow;
  hand: ReturnType<typeof useByHand>;
  busy: boolean;
  onProve: () => void;
}

/** Tips put and taken away by a click on the figure, then proved as a row of their own. */
export function ByHand({ row, hand, busy, onProve }: Props) {
  const { edits, mode } = hand;
  const put = edits.filter((e) => e.op === "add").length;
  const away = edits.length - put;
  return (
    <section aria-label="By hand" className="mt-3 text-[13px]">
      {row.spots.length > 0 && <p className="mb-1 text-faded">Tips: {reasonsOf(row)}.</p>}
      <div className="flex flex-wrap items-center gap-x-4 gap-y-1.5">
        <Choice label="By hand" small value={mode} options={MODES} onValue={hand.setMode} />
        {mode !== "off" && (
          <span aria-live="polite">
            {hand.far
              ? "No tip within 4 mm of that place."
              : edits.length
                ? `${put} put, ${away} taken away`
                : mode === "add"
                  ? "Click where the figure is to be held."
                  : "Click beside the ring of a tip."}
          </span>
        )}
        {edits.length > 0 && (
          <>
            <button type="button" className="quiet px-2 text-[12.5px]" onClick={hand.back}>
              Take the last back
            </button>
            <button
              type="button"
              className="take px-3 py-1 text-[13px]"
              disabled={busy}
              onClick={onProve}
            >
              Prove it so
            </button>
          </>
        )}
      </div>
    </section>
  );
}
