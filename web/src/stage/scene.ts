import type { Vector3 } from "three";
import type { Numbers, StripData } from "../api/client";
import type { Brush } from "../turntable/surface";

/**
 * Labels of the figure's faces; `version` changes when they do. `soft`: what the figure says of
 * faces without one. With a brush they can be painted.
 */
export interface Marks {
  labels: Uint8Array;
  soft?: Uint8Array | null;
  version: number;
  brush?: Brush | null;
}

/** Thickness at the figure's vertices: its blob, and the limits of walls and rods in printed mm. */
export interface Thick {
  sha: string;
  limits: [number, number];
  /** What the dye is called, where it is not the thickness. */
  called?: string;
}

/** Turning the figure itself by hand: `axis` in the room, `angle` in radians, for every move. */
export type Turn = (axis: Vector3, angle: number) => void;

/** A hole as the turntable draws it. */
export interface BoreAt {
  at: [number, number, number];
  axis: [number, number, number];
  radius: number;
  chosen: boolean;
  /** Seen through the figure too: a change that waits to be proved. */
  through?: boolean;
}

/** What stands on the turntable, one thing an item. */
export type Item =
  | {
      kind: "figure";
      sha: string | null | undefined;
      matrix?: number[];
      marks?: Marks | null;
      thick?: Thick | null;
      /** What faces down by more than this share needs a support. */
      limit?: number;
      /** |n_z| between which slopes stay open; what is flatter is closed by roofs. */
      gap?: [number, number];
    }
  | { kind: "supports"; sha: string }
  /** Laid over the figure in alarm: what a repair has changed or taken. */
  | { kind: "overlay"; sha: string }
  /** A note at a place; `face` turns the table until it is in front. */
  | { kind: "pin"; x: number; y: number; z: number; text: string; face?: boolean }
  /** Holes in the figure's own frame at its file's size: where, which way in, how wide. */
  | { kind: "holes"; rows: BoreAt[] }
  | { kind: "hand"; onTurn: Turn }
  | { kind: "picker"; onPick: (point: Vector3, normal: Vector3) => void; plate?: boolean };

export type ItemOf<K extends Item["kind"]> = Extract<Item, { kind: K }>;

export const find = <K extends Item["kind"]>(
  items: readonly Item[],
  kind: K,
): ItemOf<K> | undefined => items.find((i): i is ItemOf<K> => i.kind === kind);

/** A figure on its side, in mm or the file's units: what two ribbons compare. */
export interface Section {
  title: string;
  layer_height_mm: number;
  area_mm2: number[];
  base: number;
}

/** What lies along the foot of the page. */
export type Foot =
  | { kind: "strip"; data: StripData }
  | {
      kind: "two strips";
      above: { title: string; data: StripData };
      below: { title: string; data: StripData };
    }
  | { kind: "two figures"; above: Section; below: Section }
  | { kind: "empty"; text: string; low?: boolean };

/** What a fold puts around its board. */
export interface Stage {
  items: Item[];
  title?: string;
  /** A second pose beside the first. */
  beside?: { items: Item[]; title: string } | null;
  foot: Foot;
  /**
   * Running figures of the alternative shown, and what they are measured against where that is not
   * what was settled.
   */
  figures?: { shown: Numbers | null | undefined; against?: Numbers | null } | null;
  stale?: boolean;
  /** Undo and redo that belong to the fold alone. */
  own?: { back?: () => void; forth?: () => void };
}

export const BARE: Stage = { items: [], foot: { kind: "empty", text: "" } };
