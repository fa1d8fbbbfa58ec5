import { Choice } from "../../ui/Choice";
import type { SupportsRow } from "../../api/client";
import type { Asked } from "./useByHand";

export type Raft = "full" | "feet" | "none";

const RAFTS = [
  { value: "full", text: "full raft" },
  { value: "feet", text: "wide feet" },
  { value: "none", text: "bare feet" },
] as const satisfies readonly { value: Raft; text: string }[];

/** The raft that a row stands on: the one that was asked for last, else what it was given. */
export function raftOf(row: SupportsRow): Raft {
  const asked = row.edits.filter((e) => e.op === "raft").at(-1)?.raft;
  return asked ?? (row.raft ? "full" : "none");
}

/** The row on another raft, to be proved. */
export const onRaft = (row: SupportsRow, raft: Raft): Asked => ({
  risk: row.risk,
  style: row.style as Asked["style"],
  edits: [...row.edits.filter((e) => e.op !== "raft"), { op: "raft", at: [0, 0, 0], raft }],
});

interface Props {
  row: SupportsRow;
  busy: boolean;
  onRaft: (raft: Raft) => void;
}

/** What supports stand on; only where the figure hangs above the plate. */
export function RaftPick({ row, busy, onRaft }: Props) {
  if (row.lift_mm < 1 || !row.tip_count) return null;
  return (
    <div className="mt-3 flex items-center gap-2 text-[13px]">
      <span className="text-faded">They stand on</span>
      <Choice
        label="What supports stand on"
        small
        value={raftOf(row)}
        options={RAFTS}
        onValue={(raft) => {
          if (!busy) onRaft(raft);
        }}
      />
    </div>
  );
}
