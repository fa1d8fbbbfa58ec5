import { useThree } from "@react-three/fiber";
import { useEffect, useMemo } from "react";
import {
  DoubleSide,
  Mesh,
  MeshBasicMaterial,
  Plane,
  Quaternion,
  Raycaster,
  Vector2,
  Vector3,
  type BufferGeometry,
  type Matrix4,
} from "three";
import { useView } from "../shell/view";
import type { BoreAt, Turn } from "../stage/scene";
import { Cloth, type Look } from "./cloth";
import { show } from "./surface";

interface BodyProps extends Omit<Look, "dye" | "night"> {
  geometry: BufferGeometry;
}

/** One surface on the table, in the cloth of its part. */
export function Body({ geometry, matrix, cut, part, limit, limits, gap, marked }: BodyProps) {
  const dye = useView((s) => s.dye);
  const night = useView((s) => s.theme) === "night";
  const invalidate = useThree((s) => s.invalidate);
  const material = useMemo(() => new Cloth(), []);
  useEffect(() => {
    material.dress({ part, dye, night, matrix, cut, limit, limits, gap, marked });
    invalidate();
  }, [material, cut, dye, night, part, matrix, limit, limits, gap, marked, invalidate]);
  useEffect(() => () => material.dispose(), [material]);
  return <mesh geometry={geometry} material={material} matrixAutoUpdate={false} matrix={matrix} />;
}

/**
 * Clicks on the figure, told apart from turning it: the place, and which way its surface looks, in
 * the file's frame.
 */
const OUT = new Vector3(0, 0, 1);

export function Picker({
  geometry,
  matrix,
  onPick,
  plate,
}: {
  geometry: BufferGeometry;
  matrix: Matrix4;
  onPick: (point: Vector3, normal: Vector3) => void;
  /** A place of the plate is meant, wherever the figure stands before it. */
  plate?: boolean;
}) {
  const { gl, camera, size } = useThree();
  useEffect(() => {
    const host = gl.domElement;
    let from: [number, number] | null = null;
    const down = (e: PointerEvent) => {
      from = [e.offsetX, e.offsetY];
    };
    const up = (e: PointerEvent) => {
      if (!from || Math.hypot(e.offsetX - from[0], e.offsetY - from[1]) > 4) return;
      const ray = new Raycaster();
      ray.setFromCamera(
        new Vector2((e.offsetX / size.width) * 2 - 1, 1 - (e.offsetY / size.height) * 2),
        camera,
      );
      const ground = ray.ray.intersectPlane(new Plane(OUT, 0), new Vector3());
      if (plate) {
        if (ground) onPick(ground.applyMatrix4(matrix.clone().invert()), OUT.clone());
        return;
      }
      const target = new Mesh(geometry, new MeshBasicMaterial({ side: DoubleSide }));
      target.matrixWorld.copy(matrix);
      const hit = ray.intersectObject(target, false).at(0);
      if (hit?.face)
        onPick(hit.point.clone().applyMatrix4(matrix.clone().invert()), hit.face.normal.clone());
    };
    host.addEventListener("pointerdown", down);
    host.addEventListener("pointerup", up);
    return () => {
      host.removeEventListener("pointerdown", down);
      host.removeEventListener("pointerup", up);
    };
  }, [geometry, matrix, onPick, plate, gl, camera, size]);
  return null;
}

/** Holes as rings on the surface, the chosen one with a stem that shows its way in. */
export function Bores({ rows, matrix }: { rows: BoreAt[]; matrix: Matrix4 }) {
  const invalidate = useThree((s) => s.invalidate);
  useEffect(() => invalidate(), [rows, matrix, invalidate]);
  return (
    <group matrixAutoUpdate={false} matrix={matrix}>
      {rows.map(({ at, axis, radius, chosen, through }, i) => (
        <group
          key={i}
          position={at}
          quaternion={new Quaternion().setFromUnitVectors(OUT, new Vector3(...axis).normalize())}
        >
          <mesh>
            <torusGeometry args={[radius, radius * 0.22, 10, 36]} />
            <meshBasicMaterial
              color={chosen ? "#c4622d" : "#20375f"}
              depthTest={!through}
              transparent={through}
            />
          </mesh>
          {chosen && !through && (
            <mesh position={[0, 0, -radius * 2]} rotation={[Math.PI / 2, 0, 0]}>
              <cylinderGeometry args={[radius * 0.16, radius * 0.16, radius * 4, 10]} />
              <meshBasicMaterial color="#c4622d" />
            </mesh>
          )}
        </group>
      ))}
    </group>
  );
}

/** The figure turned by the hand instead of the table. */
export function Hand({ onTurn }: { onTurn: Turn }) {
  const { gl, camera } = useThree();
  useEffect(() => {
    const host = gl.domElement;
    let from: [number, number] | null = null;
    const down = (e: PointerEvent) => {
      if (e.button !== 0 || e.shiftKey) return;
      e.stopImmediatePropagation();
      host.setPointerCapture(e.pointerId);
      from = [e.clientX, e.clientY];
    };
    const move = (e: PointerEvent) => {
      if (!from) return;
      e.stopImmediatePropagation();
      const [dx, dy] = [e.clientX - from[0], e.clientY - from[1]];
      from = [e.clientX, e.clientY];
      const far = Math.hypot(dx, dy);
      if (!far) return;
      const right = new Vector3().setFromMatrixColumn(camera.matrixWorld, 0);
      const up = new Vector3().setFromMatrixColumn(camera.matrixWorld, 1);
      onTurn(up.multiplyScalar(dx).addScaledVector(right, dy).normalize(), far * 0.01);
    };
    const up = (e: PointerEvent) => {
      if (from) e.stopImmediatePropagation();
      from = null;
    };
    host.addEventListener("pointerdown", down, true);
    host.addEventListener("pointermove", move, true);
    host.addEventListener("pointerup", up, true);
    return () => {
      host.removeEventListener("pointerdown", down, true);
      host.removeEventListener("pointermove", move, true);
      host.removeEventListener("pointerup", up, true);
    };
  }, [gl, camera, onTurn]);
  return null;
}

/** A cotton mat under the figure, with rings every ten millimetres: no bed, no grid. */
export function Mat({ radius }: { radius: number }) {
  const night = useView((s) => s.theme) === "night";
  const rings = Array.from(
    { length: Math.min(12, Math.floor(radius / 10)) },
    (_, i) => (i + 1) * 10,
  );
  return (
    <group position={[0, 0, -0.02]}>
      <mesh>
        <circleGeometry args={[radius, 72]} />
        <meshBasicMaterial color={night ? "#1b2846" : "#e6decb"} />
      </mesh>
      {rings.map((r) => (
        <mesh key={r} position={[0, 0, 0.01]}>
          <ringGeometry args={[r - 0.06, r + 0.06, 72]} />
          <meshBasicMaterial color={night ? "#32426a" : "#cdc3ab"} />
        </mesh>
      ))}
    </group>
  );
}

/** Lays the marks on the figure and draws it again, in this order. */
export function Labels({
  apart,
  labels,
  soft,
  version,
}: {
  apart: BufferGeometry;
  labels: Uint8Array;
  soft?: Uint8Array | null;
  version: number;
}) {
  const invalidate = useThree((s) => s.invalidate);
  useEffect(() => {
    show(apart, labels, soft);
    invalidate();
  }, [apart, labels, soft, version, invalidate]);
  return null;
}
