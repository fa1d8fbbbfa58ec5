import { useEffect, useMemo, useRef, useState } from "react";
import { Box3, Matrix4, Vector3, type BufferGeometry } from "three";
import { useView, type Dye } from "../shell/view";
import { find, type Item, type Thick } from "../stage/scene";
import { Choice } from "../ui/Choice";
import { fetchMesh, fetchThickness } from "./mesh";
import { Painter } from "./Painter";
import { Body, Bores, Hand, Labels, Mat, Picker } from "./pieces";
import { Round } from "./Round";
import { Stand } from "./Stand";
import { unshared } from "./surface";

interface Props {
  items: readonly Item[];
  cut?: number | null;
  stale?: boolean;
  label: string;
  title?: string;
  /** Without dyes to choose: beside another that has them. */
  plain?: boolean;
}

const NOTHING_YET = new Box3(new Vector3(-10, -10, 0), new Vector3(10, 10, 20));
const HERE = new Matrix4();

function useMesh(sha: string | null | undefined) {
  const [held, setHeld] = useState<{ sha: string; geometry: BufferGeometry | null } | null>(null);
  useEffect(() => {
    if (!sha) return;
    let here = true;
    fetchMesh(sha).then(
      (geometry) => here && setHeld({ sha, geometry }),
      () => here && setHeld({ sha, geometry: null }),
    );
    return () => {
      here = false;
    };
  }, [sha]);
  // While another is on its way the last one stays on the table.
  const geometry = sha ? (held?.geometry ?? null) : null;
  return { geometry, failed: held?.sha === sha && held?.geometry === null };
}

/** The limits of thickness once its numbers lie on the geometry. */
function useThick(thick: Thick | null | undefined, geometry: BufferGeometry | null) {
  const [dyed, setDyed] = useState("");
  const sha = thick?.sha;
  useEffect(() => {
    if (!sha || !geometry) return;
    let here = true;
    fetchThickness(sha, geometry).then(
      () => here && setDyed(sha),
      () => here && setDyed(""),
    );
    return () => {
      here = false;
    };
  }, [sha, geometry]);
  return dyed === thick?.sha ? thick.limits : undefined;
}

/** While the figure is turned by hand its frame must not jump: a cube around what it may fill. */
function stillFrame(box: Box3): Box3 {
  const r = Math.ceil(box.getSize(new Vector3()).length() / 20) * 10;
  return new Box3(new Vector3(-r * 0.6, -r * 0.6, 0), new Vector3(r * 0.6, r * 0.6, r * 1.05));
}

function placeOf(matrix: number[] | undefined, geometry: BufferGeometry | null) {
  const m = new Matrix4();
  if (matrix) return m.fromArray(matrix);
  if (!geometry?.boundingBox) return m;
  const { min, max } = geometry.boundingBox;
  return m.makeTranslation(-(min.x + max.x) / 2, -(min.y + max.y) / 2, -min.z);
}

/** The figure in the round, with what a fold lays on it. */
export function Turntable({ items, cut, stale, label, title, plain }: Props) {
  const figure = find(items, "figure");
  const [supports, overlay, pin] = [
    find(items, "supports"),
    find(items, "overlay"),
    find(items, "pin"),
  ];
  const [hand, picker] = [find(items, "hand"), find(items, "picker")];
  const holes = find(items, "holes");
  const { geometry, failed } = useMesh(figure?.sha);
  const held = useMesh(supports?.sha).geometry;
  const over = useMesh(overlay?.sha).geometry;
  const limits = useThick(figure?.thick, geometry);
  const limit = figure?.limit ?? 0.94;
  const marks = figure?.marks;
  // Marks belong to one preview: on another figure's faces they mean nothing.
  const fits = !!geometry?.index && marks?.labels.length === geometry.index.count / 3;
  // Split anew once numbers lie on the corners, so that the dye is theirs too.
  const dyedBy = limits ? figure?.thick?.sha : undefined;
  const apart = useMemo(
    () => (fits && geometry && dyedBy !== null ? unshared(geometry) : null),
    [fits, geometry, dyedBy],
  );
  useEffect(() => () => apart?.dispose(), [apart]);
  const note = useRef<HTMLDivElement>(null);
  const matrix = figure?.matrix;
  const place = useMemo(() => placeOf(matrix, geometry), [matrix, geometry]);
  const box = useMemo(() => {
    const whole = geometry?.boundingBox
      ? geometry.boundingBox.clone().applyMatrix4(place)
      : NOTHING_YET.clone();
    if (held?.boundingBox) whole.union(held.boundingBox);
    whole.min.z = Math.min(whole.min.z, 0);
    return whole;
  }, [geometry, place, held]);
  const radius = Math.max(10, Math.max(box.max.x - box.min.x, box.max.y - box.min.y) / 2 + 2);
  return (
    <Round
      label={label}
      className={`${picker ? "cursor-crosshair" : ""} ${stale ? "opacity-60" : ""}`}
      behind={
        <svg className="absolute inset-0 h-full w-full text-thread opacity-[0.13]" aria-hidden>
          <rect width="100%" height="100%" fill="url(#p-sea)" />
        </svg>
      }
      over={
        <>
          {pin && geometry && (
            <div ref={note} className="group pointer-events-none absolute top-0 left-0">
              <span className="absolute -top-1.5 -left-1.5 block h-3 w-3 rounded-full border-2 border-paper bg-persimmon" />
              <span className="absolute top-[-14px] left-3 block w-max max-w-[190px] border-l-4 border-persimmon bg-paper px-2 py-1 text-xs leading-snug group-data-[side=left]:right-3 group-data-[side=left]:left-auto">
                {pin.text}
              </span>
            </div>
          )}
          {!geometry && (
            <p className="absolute inset-x-0 top-1/2 text-center text-faded">
              {failed
                ? "The preview could not be fetched. It will be tried again when you come back."
                : "The figure is on its way"}
            </p>
          )}
          {title && (
            <span className="absolute top-2 left-2 bg-paper/85 px-2 py-0.5 text-[12.5px]">
              {title}
            </span>
          )}
          {!plain && (
            <Dyes
              thick={limits ? (figure?.thick?.called ?? "thickness") : null}
              marked={!!apart}
              gaps={!!figure?.gap}
            />
          )}
        </>
      }
    >
      <Stand box={hand ? stillFrame(box) : box} pin={pin} note={note} />
      <Mat radius={radius} />
      {geometry && (
        <Body
          key={apart ? "apart" : "shared"}
          geometry={apart ?? geometry}
          matrix={place}
          cut={cut}
          part="figure"
          limit={limit}
          limits={limits}
          gap={figure?.gap}
          marked={!!apart}
        />
      )}
      {geometry && apart && marks?.brush && (
        <Painter geometry={geometry} apart={apart} matrix={place} brush={marks.brush} />
      )}
      {apart && marks && (
        <Labels apart={apart} labels={marks.labels} soft={marks.soft} version={marks.version} />
      )}
      {over && <Body geometry={over} matrix={place} cut={cut} part="overlay" limit={limit} />}
      {geometry && holes && <Bores rows={holes.rows} matrix={place} />}
      {geometry && hand && <Hand onTurn={hand.onTurn} />}
      {geometry && picker && (
        <Picker geometry={geometry} matrix={place} onPick={picker.onPick} plate={picker.plate} />
      )}
      {held && <Body geometry={held} matrix={HERE} cut={cut} part="supports" limit={limit} />}
    </Round>
  );
}

const NAMES: Record<Dye, string> = {
  plain: "relief",
  ceilings: "ceilings",
  steps: "steps",
  "x-ray": "x-ray",
  thickness: "thickness",
  marks: "marks",
  scars: "scars",
  gaps: "gaps",
};
const ALWAYS: Dye[] = ["plain", "ceilings", "steps", "x-ray"];

function Dyes({ thick, marked, gaps }: { thick: string | null; marked: boolean; gaps: boolean }) {
  const { dye, setDye } = useView();
  const offered: Dye[] = [
    ...ALWAYS,
    ...(thick ? (["thickness"] as const) : []),
    ...(marked ? (["marks", "scars"] as const) : []),
    ...(gaps ? (["gaps"] as const) : []),
  ];
  return (
    <Choice
      label="Dye"
      small
      value={dye}
      options={offered.map((d) => ({
        value: d,
        text: d === "thickness" ? (thick ?? NAMES[d]) : NAMES[d],
      }))}
      onValue={setDye}
      className="absolute bottom-2 left-2"
    />
  );
}
