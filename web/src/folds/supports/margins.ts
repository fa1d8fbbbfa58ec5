import type { SupportsRow } from "../../api/client";
import type { Thick } from "../../stage/scene";

/**
 * The margin map as a dye: densely where a layer's pull is more than what holds, openly where it is
 * less than the accepted risk asks.
 */
export const marginsOf = (row: SupportsRow | undefined): Thick | null =>
  row?.margins_sha ? { sha: row.margins_sha, limits: [1, row.wanted], called: "hold" } : null;
