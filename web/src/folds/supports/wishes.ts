import type { Asked } from "./useByHand";

/** What is asked of the board, as it stands in an address: a tip that is only taken away by its place alone, since a
 * set that is backed off loses hundreds. */
export const wishesOf = (own: Asked | null) =>
  JSON.stringify({
    own: own && {
      ...own,
      edits: (own.edits ?? []).map((e) => (e.op === "remove" ? e.at : e)),
    },
  });
