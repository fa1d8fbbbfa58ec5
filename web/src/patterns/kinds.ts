/** Kinds of marks. */
export const KINDS = ["show", "hidden", "fit", "keep_out", "hold"] as const;
export type Kind = (typeof KINDS)[number] | "none";
/** The label of a kind, 0 for none. */
export const codeOf = (kind: Kind | null | undefined) => KINDS.findIndex((k) => k === kind) + 1;
