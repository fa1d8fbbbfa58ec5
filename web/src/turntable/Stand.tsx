import { useFrame, useThree } from "@react-three/fiber";
import { useEffect, useMemo, type RefObject } from "react";
import { Vector3, type Box3, type Camera, type OrthographicCamera } from "three";
import { OrbitControls } from "three/addons/controls/OrbitControls.js";
import type { ItemOf } from "../stage/scene";

const AWAY = 600;
const FROM = new Vector3(0.42, -0.88, 0.24).normalize();
const KEYS: Record<string, [number, number]> = {
  ArrowLeft: [-0.12, 0],
  ArrowRight: [0.12, 0],
  ArrowUp: [0, -0.12],
  ArrowDown: [0, 0.12],
};

/** Fill the frame with the box as it is seen from FROM. */
function frame(camera: Camera, controls: OrbitControls, box: Box3, width: number, height: number) {
  const middle = box.getCenter(new Vector3());
  const ortho = camera as OrthographicCamera;
  const right = new Vector3(0, 0, 1).cross(FROM).normalize();
  const up = FROM.clone().cross(right);
  let wide = 0;
  let tall = 0;
  for (let i = 0; i < 8; i++) {
    const [x, y, z] = [
      i & 1 ? box.max.x : box.min.x,
      i & 2 ? box.max.y : box.min.y,
      i & 4 ? box.max.z : box.min.z,
    ];
    const p = new Vector3(x, y, z).sub(middle);
    wide = Math.max(wide, Math.abs(p.dot(right)));
    tall = Math.max(tall, Math.abs(p.dot(up)));
  }
  ortho.zoom = Math.min(
    (width - 16) / (2 * wide),
    (height - (height < 260 ? 36 : 70)) / (2 * tall),
  );
  middle.addScaledVector(up, -18 / ortho.zoom);
  camera.position.copy(middle).addScaledVector(FROM, AWAY);
  camera.up.set(0, 0, 1);
  controls.target.copy(middle);
  controls.enableDamping = false;
  controls.rotateSpeed = 0.8;
  ortho.updateProjectionMatrix();
  controls.update();
}

/** Turn the camera about its target by two angles. */
function orbit(camera: Camera, controls: OrbitControls, [turn, tilt]: [number, number]) {
  const offset = camera.position.clone().sub(controls.target);
  offset.applyAxisAngle(new Vector3(0, 0, 1), turn);
  const r = offset.length();
  const polar = Math.min(Math.PI - 0.1, Math.max(0.1, Math.acos(offset.z / r) + tilt));
  const flat = Math.hypot(offset.x, offset.y) || 1;
  const out = r * Math.sin(polar);
  offset.set((offset.x / flat) * out, (offset.y / flat) * out, r * Math.cos(polar));
  camera.position.copy(controls.target).add(offset);
  controls.update();
}

interface Props {
  box: Box3;
  pin?: ItemOf<"pin"> | null;
  note?: RefObject<HTMLDivElement | null>;
}

/** The camera, how it is turned, and where a note hangs. */
export function Stand({ box, pin, note }: Props) {
  const { camera, gl, size, invalidate } = useThree();
  const controls = useMemo(() => new OrbitControls(camera, gl.domElement), [camera, gl]);
  const key = [...box.min.toArray(), ...box.max.toArray()].map((v) => v.toFixed(1)).join();
  useEffect(() => {
    frame(camera, controls, box, size.width, size.height);
    const redraw = () => invalidate();
    controls.addEventListener("change", redraw);
    invalidate();
    return () => controls.removeEventListener("change", redraw);
    // the box by its size: a new object of the same one must not turn the table back
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [key, size.width, size.height, controls]);
  useEffect(() => {
    controls.connect();
    return () => controls.disconnect();
  }, [controls]);
  useEffect(() => {
    const host = gl.domElement.closest<HTMLElement>("[data-turntable]");
    const turn = (event: KeyboardEvent) => {
      if (!(event.key in KEYS) || event.target !== host) return;
      event.preventDefault();
      orbit(camera, controls, KEYS[event.key]);
      invalidate();
    };
    host?.addEventListener("keydown", turn);
    return () => host?.removeEventListener("keydown", turn);
  }, [camera, controls, gl, invalidate]);
  useEffect(() => {
    if (!pin?.face) return;
    // Turn the table until the place looks at us.
    const offset = camera.position.clone().sub(controls.target);
    const middle = new Vector3(box.min.x + box.max.x, box.min.y + box.max.y, 0).multiplyScalar(0.5);
    const way = new Vector3(pin.x, pin.y, 0).sub(middle);
    if (way.length() < 1e-3) return;
    way.normalize().multiplyScalar(Math.hypot(offset.x, offset.y));
    camera.position.set(controls.target.x + way.x, controls.target.y + way.y, camera.position.z);
    controls.update();
    // only a new pin turns the table
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [pin, camera, controls]);
  useEffect(() => invalidate(), [pin, invalidate]);
  useFrame(() => {
    const tag = note?.current;
    if (!tag || !pin) return;
    const p = new Vector3(pin.x, pin.y, pin.z).project(camera);
    const x = ((p.x + 1) / 2) * size.width;
    // the note follows the picture, not the page
    // eslint-disable-next-line react-hooks/immutability
    tag.style.transform = `translate(${x}px, ${((1 - p.y) / 2) * size.height}px)`;
    tag.dataset.side = x > size.width - 215 ? "left" : "right";
  });
  return null;
}
