import type { HollowBoard, HollowRow } from "../../api/client";
import type { Thick } from "../../stage/scene";
import type { Column } from "../../ui/Board";

/** A wall is thinner than asked, or hardly thicker; the preview is coarser than what is printed. */
const [THINNER, THICKER] = [0.9, 1.15];

export const COLUMNS: Column<HollowRow>[] = [
  {
    id: "saved",
    head: (
      <>
        saved
        <br />
        ml
      </>
    ),
    cell: (r) => r.hollow?.saved_ml.toFixed(1) ?? "",
  },
  {
    id: "pull",
    head: (
      <>
        pull
        <br />N
      </>
    ),
    cell: (r) => r.peak_pull_n.toFixed(1),
  },
  { id: "holes", head: "holes", cell: (r) => (r.hollow ? r.holes : "") },
  {
    id: "left",
    head: (
      <>
        stays
        <br />
        ml
      </>
    ),
    name: "ml stay inside",
    from: 560,
    cell: (r) => (r.hollow ? r.retained_ml.toFixed(2) : ""),
  },
  {
    id: "drain",
    head: (
      <>
        drains
        <br />
        min
      </>
    ),
    name: "minutes to drain",
    from: 620,
    cell: (r) => (r.hollow ? (r.drain_s == null ? "never" : (r.drain_s / 60).toFixed(1)) : ""),
  },
];

export function nameOf(r: HollowRow, shell?: HollowBoard["shell"]): string {
  if (r.wall_mm == null && shell) return `As it came: a shell of ${shell.wall_mm.toFixed(1)} mm`;
  if (r.wall_mm == null) return r.hollow ? "As it came" : "Solid";
  if (r.wall_mm < 0) return "Its voids filled";
  if (r.wall_mm === 0) return r.own ? "Yours: as it came, drained" : "As it came, drained";
  const struts = r.lattice_mm ? ", with struts" : "";
  return `${r.own ? "Yours: wall" : "Wall"} ${r.wall_mm.toFixed(1)} mm${struts}`;
}

const OPENS = { foot: "at its foot", top: "at its top", side: "at a side" };

export function lineOf(r: HollowRow, shell?: HollowBoard["shell"]): string {
  if (!r.hollow && shell) return `open ${OPENS[shell.opens]}; no space in it is closed`;
  if (!r.hollow) return "nothing to drain, nothing to plug";
  if ((r.wall_mm ?? 0) < 0) return "solid: nothing to drain, nothing to plug";
  if (!r.hollow.cavities.length) return "nothing lies so deep: it stays solid";
  const n = r.hollow.cavities.length;
  const struts = r.lattice_mm ? `, struts every ${r.lattice_mm.toFixed(1)} mm` : "";
  return `${n === 1 ? "one cavity" : `${n} cavities`}${struts}`;
}

/** The wall as a dye: what is thinner than asked, and what is hardly thicker. */
export function wallOf(r: HollowRow | undefined): Thick | null {
  const wall = r?.hollow?.wall_mm ?? 0;
  return r?.wall_sha && wall > 0
    ? { sha: r.wall_sha, limits: [THINNER * wall, THICKER * wall] }
    : null;
}

export function takeOf(r: HollowRow): string {
  if (r.wall_mm == null) return r.hollow ? "Take it as it came" : "Leave it solid";
  return r.wall_mm < 0 ? "Take it filled" : "Take it hollow";
}
