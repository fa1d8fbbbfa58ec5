import { useEffect, useMemo, useState } from "react";
import { Box3, DoubleSide, Matrix4, Quaternion, Vector3, type BufferGeometry } from "three";
import type { Place } from "../api/client";
import { fetchMesh } from "../turntable/mesh";
import { Body, Mat, Picker } from "../turntable/pieces";
import { Round } from "../turntable/Round";
import { Stand } from "../turntable/Stand";
import { onTable, type Cut, type Parted } from "./place";

interface Props {
  sha: string | null | undefined;
  up: Place;
  factor: number;
  cut: Cut | null;
  parted: Parted | null;
  apart: boolean;
  label: string;
  onPick: (at: Place) => void;
}

const NOTHING_YET = new Box3(new Vector3(-10, -10, 0), new Vector3(10, 10, 20));
const APART = 0.3;
const WIDE = 0.2;

function useMeshes(shas: string[]): BufferGeometry[] {
  const [held, setHeld] = useState<{ key: string; meshes: BufferGeometry[] }>({
    key: "",
    meshes: [],
  });
  const key = shas.join();
  useEffect(() => {
    let here = true;
    const wanted = key ? key.split(",") : [];
    void Promise.all(wanted.map(fetchMesh)).then((meshes) => here && setHeld({ key, meshes }));
    return () => {
      here = false;
    };
  }, [key]);
  return held.key === key ? held.meshes : [];
}

/** The figure as it stands with the plane of a cut, or its two parts, drawn apart along their way. */
export function CutTable({ sha, up, factor, cut, parted, apart, label, onPick }: Props) {
  const [whole] = useMeshes(sha ? [sha] : []);
  const parts = useMeshes(apart && parted ? parted.parts.map((p) => p.preview_sha) : []);
  const place = useMemo(() => onTable(whole?.boundingBox ?? null, up, factor), [whole, up, factor]);
  // Parts are in mm already.
  const inMm = useMemo(
    () => place.clone().multiply(new Matrix4().makeScale(1 / factor, 1 / factor, 1 / factor)),
    [place, factor],
  );
  const box = useMemo(
    () => whole?.boundingBox?.clone().applyMatrix4(place) ?? NOTHING_YET.clone(),
    [whole, place],
  );
  const size = box.getSize(new Vector3()).length();
  const places = useMemo(() => {
    const away = new Vector3(...(parted?.away ?? [0, 0, 1])).multiplyScalar(APART * size);
    return [inMm, inMm.clone().multiply(new Matrix4().makeTranslation(away.x, away.y, away.z))];
  }, [inMm, parted, size]);
  const shown = apart && parts.length === 2;
  const frame = useMemo(() => {
    const all = box.clone();
    if (shown)
      parts.forEach(
        (g, k) => g.boundingBox && all.union(g.boundingBox.clone().applyMatrix4(places[k])),
      );
    return all;
  }, [box, shown, parts, places]);
  const plane = useMemo(() => {
    if (!cut) return null;
    const m = new Matrix4()
      .makeRotationFromQuaternion(
        new Quaternion().setFromUnitVectors(
          new Vector3(0, 0, 1),
          new Vector3(...cut.normal).normalize(),
        ),
      )
      .setPosition(...cut.point);
    return inMm.clone().multiply(m);
  }, [cut, inMm]);
  return (
    <Round
      label={label}
      className="cursor-crosshair"
      over={
        <>
          {!whole && (
            <p className="absolute inset-x-0 top-1/2 text-center text-faded">
              The figure is on its way
            </p>
          )}
          <span className="absolute top-2 left-2 bg-paper/85 px-2 py-0.5 text-[12.5px]">
            {shown ? "Both parts, drawn apart" : "Click where it is to be cut"}
          </span>
        </>
      }
    >
      <Stand box={frame} />
      <Mat radius={Math.max(10, size / 3)} />
      {whole && !shown && (
        <Body geometry={whole} matrix={place} cut={null} part="figure" limit={0.94} />
      )}
      {shown &&
        parts.map((g, k) => (
          <Body
            key={g.uuid}
            geometry={g}
            matrix={places[k]}
            cut={null}
            part="figure"
            limit={0.94}
          />
        ))}
      {plane && !shown && (
        <mesh matrixAutoUpdate={false} matrix={plane} renderOrder={2}>
          <circleGeometry args={[WIDE * size, 48]} />
          <meshBasicMaterial
            color="#b5452c"
            transparent
            opacity={0.35}
            side={DoubleSide}
            depthWrite={false}
          />
        </mesh>
      )}
      {whole && !shown && (
        <Picker
          geometry={whole}
          matrix={place}
          onPick={(p) => onPick([p.x * factor, p.y * factor, p.z * factor])}
        />
      )}
    </Round>
  );
}
