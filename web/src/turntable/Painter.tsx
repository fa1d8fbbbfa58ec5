import { useThree } from "@react-three/fiber";
import { useEffect, useRef } from "react";
import {
  Raycaster,
  Vector2,
  Vector3,
  type BufferGeometry,
  type Matrix4,
  type OrthographicCamera,
} from "three";
import { codeOf } from "../patterns/kinds";
import { reflected, show, surfaceOf, type Brush, type Reach } from "./surface";

const MOST_POINTS = 4000;

interface Props {
  geometry: BufferGeometry;
  apart: BufferGeometry;
  matrix: Matrix4;
  brush: Brush;
}

interface Under {
  stroke: Brush["stroke"];
  labels: Uint8Array;
  sides: { reach: Reach; mirrored: boolean }[];
  points: [number, number, number][];
  last: Vector3;
}

/** Strokes under the pointer: on the figure it paints, beside it the table turns. Shift turns it anywhere. */
export function Painter({ geometry, apart, matrix, brush }: Props) {
  const { gl, camera, size, invalidate } = useThree();
  // What the figure says, or a new size of the page, may come in the middle of a stroke: it goes on.
  const latest = useRef({ apart, brush, camera, size, matrix });
  useEffect(() => {
    latest.current = { apart, brush, camera, size, matrix };
  });
  useEffect(() => {
    const host = gl.domElement;
    const surface = surfaceOf(geometry);
    const ring = document.createElement("div");
    ring.className =
      "pointer-events-none absolute left-0 top-0 rounded-full border-2 border-indigo opacity-70";
    ring.style.display = "none";
    host.parentElement?.append(ring);
    let under: Under | null = null;
    const at = (e: PointerEvent) => {
      const { camera, size, matrix } = latest.current;
      const ray = new Raycaster();
      ray.setFromCamera(
        new Vector2((e.offsetX / size.width) * 2 - 1, 1 - (e.offsetY / size.height) * 2),
        camera,
      );
      return surface.hit(ray.ray.applyMatrix4(matrix.clone().invert()));
    };
    const lay = (stroke: Under, point: Vector3) => {
      const { apart, brush } = latest.current;
      const code = codeOf(stroke.stroke.kind);
      for (const side of stroke.sides) {
        const fresh = surface.extend(
          side.reach,
          side.mirrored && brush.plane ? reflected(point, brush.plane) : point,
        );
        for (const f of fresh) brush.labels[f] = code;
        show(apart, brush.labels, brush.soft, fresh);
      }
      const [x, y, z] = point.toArray().map((v) => Number(v.toPrecision(7)));
      stroke.points.push([x, y, z]);
      stroke.last = point;
      invalidate();
    };
    const down = (e: PointerEvent) => {
      if (e.button !== 0 || e.shiftKey) return;
      const point = at(e);
      if (!point) return;
      e.stopImmediatePropagation();
      e.preventDefault();
      host.setPointerCapture(e.pointerId);
      const { brush } = latest.current;
      const sides = brush.stroke.mirror && brush.plane ? [false, true] : [false];
      under = {
        stroke: brush.stroke,
        labels: brush.labels,
        sides: sides.map((mirrored) => ({ reach: surface.begin(brush.stroke), mirrored })),
        points: [],
        last: point,
      };
      lay(under, point);
    };
    const move = (e: PointerEvent) => {
      const { brush, camera, matrix } = latest.current;
      const scale = new Vector3().setFromMatrixColumn(matrix, 0).length();
      const wide = 2 * brush.radius * scale * (camera as OrthographicCamera).zoom;
      ring.style.display = brush.stroke.tool === "brush" && !e.shiftKey ? "block" : "none";
      ring.style.width = ring.style.height = `${wide}px`;
      ring.style.transform = `translate(${e.offsetX - wide / 2}px, ${e.offsetY - wide / 2}px)`;
      if (!under) return;
      e.stopImmediatePropagation();
      if (under.stroke.tool !== "brush" || under.points.length >= MOST_POINTS) return;
      const began = performance.now();
      const point = at(e);
      if (point && point.distanceTo(under.last) > brush.radius / 4) lay(under, point);
      host.dataset.slowestMove = String(
        Math.max(Number(host.dataset.slowestMove ?? 0), performance.now() - began),
      );
    };
    const up = (e: PointerEvent) => {
      if (!under) return;
      e.stopImmediatePropagation();
      const { stroke, points, labels } = under;
      const { brush } = latest.current;
      under = null;
      brush.done({ ...stroke, points }, labels === brush.labels);
    };
    const leave = () => {
      ring.style.display = "none";
    };
    host.classList.add("cursor-crosshair");
    host.addEventListener("pointerdown", down, true);
    host.addEventListener("pointermove", move, true);
    host.addEventListener("pointerup", up, true);
    host.addEventListener("pointercancel", up, true);
    host.addEventListener("pointerleave", leave);
    return () => {
      host.classList.remove("cursor-crosshair");
      host.removeEventListener("pointerdown", down, true);
      host.removeEventListener("pointermove", move, true);
      host.removeEventListener("pointerup", up, true);
      host.removeEventListener("pointercancel", up, true);
      host.removeEventListener("pointerleave", leave);
      ring.remove();
    };
  }, [geometry, gl, invalidate]);
  return null;
}
