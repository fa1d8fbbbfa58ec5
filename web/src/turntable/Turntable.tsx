import { Canvas, useFrame, useThree } from "@react-three/fiber";
import { useEffect, useMemo, useRef, useState, type RefObject } from "react";
import { Box3, DoubleSide, Matrix3, Matrix4, Mesh, MeshBasicMaterial, Raycaster, Vector2, Vector3, type BufferGeometry, type OrthographicCamera } from "three";
import { OrbitControls } from "three/addons/controls/OrbitControls.js";
import { useView } from "../shell/view";
import { cloth } from "./cloth";
import { fetchMesh, fetchThickness } from "./mesh";
import { Painter, type Brush } from "./Painter";
import { show, unshared } from "./surface";

/** A note at a place; `face` turns the table until it is in front. */
export interface Pin { x: number; y: number; z: number; text: string; face?: boolean }
/** Thickness laid over the figure: its blob, and the limits of walls and rods in printed mm. */
export interface Thick { sha: string; limits: [number, number] }
/** Marks laid over the figure, one label a face; `version` changes when they do. With a brush they can be painted. */
export interface Marks { labels: Uint8Array; version: number; brush?: Brush | null }
interface Props {
  sha: string | null | undefined; supports?: string | null; overlay?: string | null; thick?: Thick | null; matrix?: number[]; cut?: number | null; pin?: Pin | null; limit?: number;
  stale?: boolean; label: string; onPick?: ((point: Vector3) => void) | null; marks?: Marks | null; onTurn?: Turn | null; still?: boolean; title?: string; plain?: boolean;
}

const DYES = [["plain", "relief"], ["ceilings", "ceilings"], ["steps", "steps"], ["x-ray", "x-ray"]] as const;
const MARKED = [["marks", "marks"], ["scars", "scars"]] as const;
const WITH_THICKNESS = [...DYES, ["thickness", "thickness"]] as const;

function useMesh(sha: string | null | undefined) {
  const [geometry, setGeometry] = useState<BufferGeometry | null>(null);
  const [failed, setFailed] = useState(false);
  useEffect(() => {
    let here = true;
    setFailed(false);
    if (!sha) return setGeometry(null);
    fetchMesh(sha).then((g) => here && setGeometry(g), () => here && setFailed(true));
    return () => { here = false; };
  }, [sha]);
  return { geometry, failed };
}

export function Body({ geometry, matrix, cut, night, part, limit, limits, marked }: { geometry: BufferGeometry; matrix: Matrix4; cut: number | null | undefined; night: boolean; part: "figure" | "supports" | "overlay"; limit: number; limits?: [number, number]; marked?: boolean }) {
  const dye = useView((s) => s.dye);
  const invalidate = useThree((s) => s.invalidate);
  const material = useMemo(() => cloth("#d9d3c6", "#454c60"), []);
  useEffect(() => {
    const u = material.uniforms;
    const supports = part === "supports";
    if (part === "overlay") {
      u.body.value.set("#c4622d");
      u.shade.value.set("#8a3f16");
      u.dye.value = 0;
      material.polygonOffset = true;
      material.polygonOffsetFactor = material.polygonOffsetUnits = -2;
      u.turn.value = new Matrix3().setFromMatrix4(matrix);
      material.needsUpdate = true;
      return invalidate();
    }
    u.limits.value.set(...(limits ?? [0.3, 0.4]));
    u.body.value.set(supports ? (night ? "#7fa0cc" : "#9db4d2") : night ? "#cfcabd" : "#d9d3c6");
    u.shade.value.set(supports ? "#3d5f92" : night ? "#2c3550" : "#454c60");
    u.cutColour.value.set(supports ? "#7896bd" : "#c4622d");
    u.cutZ.value = cut ?? 1e9;
    u.dye.value = supports ? (dye === "x-ray" ? 3 : 0) : { plain: 0, ceilings: 1, steps: 2, "x-ray": 3, thickness: limits ? 4 : 0, marks: marked ? 5 : 0, scars: marked ? 6 : 0 }[dye];
    u.limit.value = limit;
    u.turn.value = new Matrix3().setFromMatrix4(matrix);
    material.transparent = dye === "x-ray";
    material.depthWrite = dye !== "x-ray";
    material.needsUpdate = true;
    invalidate();
  }, [material, cut, dye, night, part, matrix, limit, limits, marked, invalidate]);
  useEffect(() => () => material.dispose(), [material]);
  return <mesh geometry={geometry} material={material} matrixAutoUpdate={false} matrix={matrix} />;
}

/** Clicks on the figure, told apart from turning it: the place in the file's frame. */
function Picker({ geometry, matrix, onPick }: { geometry: BufferGeometry; matrix: Matrix4; onPick: (point: Vector3) => void }) {
  const { gl, camera, size } = useThree();
  useEffect(() => {
    const host = gl.domElement;
    let from: [number, number] | null = null;
    const down = (e: PointerEvent) => { from = [e.offsetX, e.offsetY]; };
    const up = (e: PointerEvent) => {
      if (!from || Math.hypot(e.offsetX - from[0], e.offsetY - from[1]) > 4) return;
      const ray = new Raycaster();
      ray.setFromCamera(new Vector2((e.offsetX / size.width) * 2 - 1, 1 - (e.offsetY / size.height) * 2), camera);
      const target = new Mesh(geometry, new MeshBasicMaterial({ side: DoubleSide }));
      target.matrixWorld.copy(matrix);
      const hit = ray.intersectObject(target, false)[0];
      if (hit) onPick(hit.point.clone().applyMatrix4(matrix.clone().invert()));
    };
    host.addEventListener("pointerdown", down);
    host.addEventListener("pointerup", up);
    return () => { host.removeEventListener("pointerdown", down); host.removeEventListener("pointerup", up); };
  }, [geometry, matrix, onPick, gl, camera, size]);
  return null;
}

/** Turning the figure itself by hand: `axis` in the room, `angle` in radians, for every move. */
export type Turn = (axis: Vector3, angle: number) => void;

function Hand({ onTurn }: { onTurn: Turn }) {
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
      const [right, up] = [new Vector3().setFromMatrixColumn(camera.matrixWorld, 0), new Vector3().setFromMatrixColumn(camera.matrixWorld, 1)];
      onTurn(up.multiplyScalar(dx).addScaledVector(right, dy).normalize(), far * 0.01);
    };
    const up = (e: PointerEvent) => { if (from) e.stopImmediatePropagation(); from = null; };
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
export function Mat({ radius, night }: { radius: number; night: boolean }) {
  const rings = Array.from({ length: Math.min(12, Math.floor(radius / 10)) }, (_, i) => (i + 1) * 10);
  return (
    <group position={[0, 0, -0.02]}>
      <mesh><circleGeometry args={[radius, 72]} /><meshBasicMaterial color={night ? "#1b2846" : "#e6decb"} /></mesh>
      {rings.map((r) => (
        <mesh key={r} position={[0, 0, 0.01]}><ringGeometry args={[r - 0.06, r + 0.06, 72]} /><meshBasicMaterial color={night ? "#32426a" : "#cdc3ab"} /></mesh>
      ))}
    </group>
  );
}

/** Lays the marks on the figure and draws it again, in this order. */
function Labels({ apart, labels, version }: { apart: BufferGeometry; labels: Uint8Array; version: number }) {
  const invalidate = useThree((s) => s.invalidate);
  useEffect(() => { show(apart, labels); invalidate(); }, [apart, labels, version, invalidate]);
  return null;
}

export function Stand({ box, pin, note }: { box: Box3; pin?: Pin | null; note?: RefObject<HTMLDivElement | null> }) {
  const { camera, gl, size, invalidate } = useThree();
  const controls = useMemo(() => new OrbitControls(camera, gl.domElement), [camera, gl]);
  const key = box.min.toArray().concat(box.max.toArray()).map((v) => v.toFixed(1)).join();
  useEffect(() => {
    const middle = box.getCenter(new Vector3());
    const ortho = camera as OrthographicCamera;
    const d = 600;
    const way = new Vector3(0.42, -0.88, 0.24).normalize();
    // Fill the frame with the box as it is seen from here.
    const right = new Vector3(0, 0, 1).cross(way).normalize();
    const up = way.clone().cross(right);
    let wide = 0;
    let tall = 0;
    for (let i = 0; i < 8; i++) {
      const p = new Vector3(i & 1 ? box.max.x : box.min.x, i & 2 ? box.max.y : box.min.y, i & 4 ? box.max.z : box.min.z).sub(middle);
      wide = Math.max(wide, Math.abs(p.dot(right)));
      tall = Math.max(tall, Math.abs(p.dot(up)));
    }
    ortho.zoom = Math.min((size.width - 16) / (2 * wide), (size.height - (size.height < 260 ? 36 : 70)) / (2 * tall));
    middle.addScaledVector(up, -18 / ortho.zoom);
    camera.position.copy(middle).addScaledVector(way, d);
    camera.up.set(0, 0, 1);
    controls.target.copy(middle);
    controls.enableDamping = false;
    controls.rotateSpeed = 0.8;
    ortho.updateProjectionMatrix();
    controls.update();
    const redraw = () => invalidate();
    controls.addEventListener("change", redraw);
    invalidate();
    return () => controls.removeEventListener("change", redraw);
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [key, size.width, size.height, controls]);
  useEffect(() => () => controls.dispose(), [controls]);
  useEffect(() => {
    const turn = (event: KeyboardEvent) => {
      const steps: Record<string, [number, number]> = { ArrowLeft: [-0.12, 0], ArrowRight: [0.12, 0], ArrowUp: [0, -0.12], ArrowDown: [0, 0.12] };
      const step = steps[event.key];
      if (!step) return;
      event.preventDefault();
      const offset = camera.position.clone().sub(controls.target);
      offset.applyAxisAngle(new Vector3(0, 0, 1), step[0]);
      const polar = Math.min(Math.PI - 0.1, Math.max(0.1, Math.acos(offset.z / offset.length()) + step[1]));
      const flat = Math.hypot(offset.x, offset.y) || 1;
      const r = offset.length();
      offset.set((offset.x / flat) * r * Math.sin(polar), (offset.y / flat) * r * Math.sin(polar), r * Math.cos(polar));
      camera.position.copy(controls.target).add(offset);
      controls.update();
      invalidate();
    };
    const host = gl.domElement.closest<HTMLElement>("[data-turntable]");
    host?.addEventListener("keydown", turn);
    return () => host?.removeEventListener("keydown", turn);
  }, [camera, controls, gl, invalidate]);
  useEffect(() => {
    if (!pin?.face) return;
    // Turn the table until the place looks at us.
    const offset = camera.position.clone().sub(controls.target);
    const way = new Vector3(pin.x, pin.y, 0).sub(new Vector3(box.min.x + box.max.x, box.min.y + box.max.y, 0).multiplyScalar(0.5));
    if (way.length() > 1e-3) {
      const flat = Math.hypot(offset.x, offset.y);
      way.normalize();
      camera.position.set(controls.target.x + way.x * flat, controls.target.y + way.y * flat, camera.position.z);
      controls.update();
    }
  }, [pin, camera, controls]);
  useEffect(() => invalidate(), [pin, invalidate]);
  useFrame(() => {
    if (!note?.current || !pin) return;
    const p = new Vector3(pin.x, pin.y, pin.z).project(camera);
    const x = ((p.x + 1) / 2) * size.width;
    note.current.style.transform = `translate(${x}px, ${((1 - p.y) / 2) * size.height}px)`;
    note.current.dataset.side = x > size.width - 215 ? "left" : "right";
  });
  return null;
}

/** While the figure is turned by hand its frame must not jump: a cube around what it may fill. */
function stillFrame(box: Box3): Box3 {
  const size = box.getSize(new Vector3());
  const r = Math.ceil(size.length() / 20) * 10;
  return new Box3(new Vector3(-r * 0.6, -r * 0.6, 0), new Vector3(r * 0.6, r * 0.6, r * 1.05));
}

export function Turntable({ sha, supports, overlay, thick, matrix, cut, pin, limit = 0.94, stale, label, onPick, marks, onTurn, still, title, plain }: Props) {
  const { geometry, failed } = useMesh(sha);
  const held = useMesh(supports);
  const over = useMesh(overlay);
  const [dyed, setDyed] = useState("");
  useEffect(() => {
    if (!thick || !geometry) return setDyed("");
    fetchThickness(thick.sha, geometry).then(() => setDyed(thick.sha), () => setDyed(""));
  }, [thick?.sha, geometry]);
  const limits = thick && dyed === thick.sha ? thick.limits : undefined;
  const { dye, setDye, theme } = useView();
  // Marks belong to one preview: on another figure's faces they mean nothing.
  const fits = !!marks && !!geometry?.index && marks.labels.length === geometry.index.count / 3;
  const apart = useMemo(() => (fits && geometry ? unshared(geometry) : null), [fits, geometry]);
  useEffect(() => () => apart?.dispose(), [apart]);
  const wanted = fits ? marks.version : -1;
  const night = theme === "night";
  const note = useRef<HTMLDivElement>(null);
  const place = useMemo(() => {
    const m = new Matrix4();
    if (matrix) m.fromArray(matrix);
    else if (geometry?.boundingBox) {
      const { min, max } = geometry.boundingBox;
      m.makeTranslation(-(min.x + max.x) / 2, -(min.y + max.y) / 2, -min.z);
    }
    return m;
  }, [matrix, geometry]);
  const box = useMemo(() => {
    const whole = geometry?.boundingBox ? geometry.boundingBox.clone().applyMatrix4(place) : new Box3(new Vector3(-10, -10, 0), new Vector3(10, 10, 20));
    if (held.geometry?.boundingBox) whole.union(held.geometry.boundingBox);
    whole.min.z = Math.min(whole.min.z, 0);
    return whole;
  }, [geometry, place, held.geometry]);
  const radius = Math.max(10, Math.max(box.max.x - box.min.x, box.max.y - box.min.y) / 2 + 2);
  return (
    <div data-turntable tabIndex={0} role="group" aria-label={`${label}. Arrow keys turn it.`} className={`relative h-full min-h-0 overflow-hidden bg-folded ${onPick ? "cursor-crosshair" : ""} ${stale ? "opacity-60" : ""}`}>
      <svg className="absolute inset-0 h-full w-full text-thread opacity-[0.13]" aria-hidden><rect width="100%" height="100%" fill="url(#p-sea)" /></svg>
      <Canvas orthographic flat frameloop="demand" dpr={[1, 2]} camera={{ near: 1, far: 2000, position: [250, -530, 150], up: [0, 0, 1] }} gl={{ alpha: true, antialias: true }} className="absolute inset-0" aria-hidden>
        <Stand box={still ? stillFrame(box) : box} pin={pin} note={note} />
        <Mat radius={radius} night={night} />
        {geometry && <Body key={apart ? "apart" : "shared"} geometry={apart ?? geometry} matrix={place} cut={cut} night={night} part="figure" limit={limit} limits={limits} marked={!!apart} />}
        {geometry && apart && marks?.brush && <Painter geometry={geometry} apart={apart} matrix={place} brush={marks.brush} />}
        {apart && marks && <Labels apart={apart} labels={marks.labels} version={wanted} />}
        {over.geometry && <Body geometry={over.geometry} matrix={place} cut={cut} night={night} part="overlay" limit={limit} />}
        {geometry && onTurn && <Hand onTurn={onTurn} />}
        {geometry && onPick && <Picker geometry={geometry} matrix={place} onPick={onPick} />}
        {held.geometry && <Body geometry={held.geometry} matrix={new Matrix4()} cut={cut} night={night} part="supports" limit={limit} />}
      </Canvas>
      {pin && geometry && (
        <div ref={note} className="group pointer-events-none absolute left-0 top-0">
          <span className="absolute -left-1.5 -top-1.5 block h-3 w-3 rounded-full border-2 border-paper bg-persimmon" />
          <span className="absolute left-3 top-[-14px] block w-max max-w-[190px] border-l-4 border-persimmon bg-paper px-2 py-1 text-xs leading-snug group-data-[side=left]:left-auto group-data-[side=left]:right-3">{pin.text}</span>
        </div>
      )}
      {!geometry && <p className="absolute inset-x-0 top-1/2 text-center text-faded">{failed ? "The preview could not be fetched. It will be tried again when you come back." : "The figure is on its way"}</p>}
      {title && <span className="absolute left-2 top-2 bg-paper/85 px-2 py-0.5 text-[12.5px]">{title}</span>}
      {!plain && <div className="absolute bottom-2 left-2 flex flex-wrap gap-1.5" role="radiogroup" aria-label="Dye">
        {[...(limits ? WITH_THICKNESS : DYES), ...(apart ? MARKED : [])].map(([name, text]) => (
          <button key={name} type="button" role="radio" aria-checked={dye === name} aria-pressed={dye === name} className="quiet px-2.5 py-0.5 text-[13px]" onClick={() => setDye(name)}>{text}</button>
        ))}
      </div>}
    </div>
  );
}
