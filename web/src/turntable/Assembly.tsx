import { useEffect, useMemo, useState } from "react";
import { Box3, Matrix4, Quaternion, Vector3, type BufferGeometry } from "three";
import type { Place } from "../api/client";
import { fetchMesh } from "./mesh";
import { Body, Mat } from "./pieces";
import { Round } from "./Round";
import { Stand } from "./Stand";

const APART_MM = 4;

/** Where each part stands: as the file places it, or side by side. */
function placesOf(parts: BufferGeometry[], together: boolean, up: Place | null): Matrix4[] {
  const stood = new Matrix4();
  if (up)
    stood.makeRotationFromQuaternion(
      new Quaternion().setFromUnitVectors(new Vector3(...up).normalize(), new Vector3(0, 0, 1)),
    );
  const boxes = parts.map((g) => (g.boundingBox ?? new Box3()).clone().applyMatrix4(stood));
  const whole = boxes.reduce((all, b) => all.union(b), new Box3());
  let x = 0;
  return boxes.map((b) => {
    const m = new Matrix4();
    if (together)
      return m
        .makeTranslation(
          -(whole.min.x + whole.max.x) / 2,
          -(whole.min.y + whole.max.y) / 2,
          -whole.min.z,
        )
        .multiply(stood);
    m.makeTranslation(x - b.min.x, -(b.min.y + b.max.y) / 2, -b.min.z);
    x += b.max.x - b.min.x + APART_MM;
    return m.multiply(stood);
  });
}

/** Several parts at once. */
export function Assembly({
  shas,
  label,
  together,
  up = null,
}: {
  shas: string[];
  label: string;
  together: boolean;
  /** Which way of the parts' frame stands up, where it is known. */
  up?: Place | null;
}) {
  const [parts, setParts] = useState<BufferGeometry[]>([]);
  const key = shas.join();
  useEffect(() => {
    let here = true;
    const wanted = key ? key.split(",") : [];
    void Promise.all(wanted.map(fetchMesh)).then((g) => here && setParts(g));
    return () => {
      here = false;
    };
  }, [key]);
  const { places, box } = useMemo(() => {
    const places = placesOf(parts, together, up);
    const box = new Box3();
    parts.forEach(
      (g, i) => g.boundingBox && box.union(g.boundingBox.clone().applyMatrix4(places[i])),
    );
    return {
      places,
      box: parts.length ? box : new Box3(new Vector3(-10, -10, 0), new Vector3(10, 10, 20)),
    };
  }, [parts, together, up]);
  const radius = Math.max(10, (box.max.x - box.min.x) / 2 + 2, (box.max.y - box.min.y) / 2 + 2);
  return (
    <Round
      label={label}
      over={
        <>
          {!parts.length && (
            <p className="absolute inset-x-0 top-1/2 text-center text-faded">
              The parts are on their way
            </p>
          )}
        </>
      }
    >
      <Stand box={box} />
      {together && <Mat radius={radius} />}
      {parts.map((g, i) => (
        <Body key={g.uuid} geometry={g} matrix={places[i]} cut={null} part="figure" limit={0.94} />
      ))}
    </Round>
  );
}
