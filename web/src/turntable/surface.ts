import { BufferAttribute, Sphere, Vector3, type Box3, type BufferGeometry, type Ray } from "three";
import { CONTAINED, INTERSECTED, MeshBVH, NOT_INTERSECTED } from "three-mesh-bvh";
import { codeOf, type Kind } from "../patterns/kinds";

type Place = [number, number, number];

/**
 * One deed on the figure, in the file's frame: done again by the core on the whole mesh
 * (core/marks/strokes.py), by the same rules.
 */
export interface Stroke {
  tool: "brush" | "fill" | "flat" | "propose" | "file" | "clear";
  kind?: Kind | null;
  points?: Place[] | null;
  radius?: number | null;
  crease?: number | null;
  what?: string | null;
  mirror?: boolean | null;
}

export interface Plane {
  normal: Place;
  offset: number;
}

/** How the hand paints: what a stroke starts as, its size in the file's unit, and who hears of it when it is done. */
export interface Brush {
  stroke: Stroke;
  labels: Uint8Array;
  soft: Uint8Array | null;
  plane: Plane | null;
  radius: number;
  /** `laid`: whether all of it is in the labels already. */
  done: (stroke: Stroke, laid: boolean) => void;
}

/** What strokes stand on: the surface, what the figure proposes, its mirror, and what its file marked. */
export interface Ground {
  surface: Surface;
  saying: Record<string, (face: number) => boolean>;
  plane: Plane | null;
  own: Uint8Array | null;
  /** What the figure says of itself, which counts softly: the kind's label plus SOFTLY, 0 for nothing. */
  soft?: Uint8Array | null;
}

export const SOFTLY = 10;

const FLAT_COS = Math.cos((4 * Math.PI) / 180);

/** What a stroke under way has reached. */
export interface Reach {
  stroke: Stroke;
  allowed: Uint8Array;
  reached: Uint8Array;
}

/** A preview's faces as strokes need them: a tree for rays and spheres, neighbours over edges, normals and middles. */
export class Surface {
  readonly faces: number;
  private readonly index: ArrayLike<number>;
  private readonly bvh: MeshBVH;
  private readonly across: Int32Array;
  private readonly middles: Float32Array;
  private readonly normals: Float32Array;
  readonly areas: Float32Array;

  constructor(readonly geometry: BufferGeometry) {
    if (!geometry.index) throw new Error("a surface has an index");
    this.index = geometry.index.array;
    this.faces = this.index.length / 3;
    this.bvh = new MeshBVH(geometry, { indirect: true });
    this.across = neighbours(this.index, geometry.getAttribute("position").count);
    this.middles = new Float32Array(this.faces * 3);
    this.normals = new Float32Array(this.faces * 3);
    this.areas = new Float32Array(this.faces);
    const p = geometry.getAttribute("position").array;
    const [a, b, c, u, v] = Array.from({ length: 5 }, () => new Vector3());
    for (let f = 0; f < this.faces; f++) {
      a.fromArray(p, this.index[3 * f] * 3);
      b.fromArray(p, this.index[3 * f + 1] * 3);
      c.fromArray(p, this.index[3 * f + 2] * 3);
      u.subVectors(b, a).cross(v.subVectors(c, a));
      const twice = u.length();
      this.areas[f] = twice / 2;
      u.divideScalar(twice || 1).toArray(this.normals, 3 * f);
      a.add(b)
        .add(c)
        .divideScalar(3)
        .toArray(this.middles, 3 * f);
    }
  }

  /** Where a ray in the file's frame meets the figure first. */
  hit(ray: Ray): Vector3 | null {
    return this.bvh.raycastFirst(ray, 2)?.point ?? null;
  }

  begin(stroke: Stroke): Reach {
    return { stroke, allowed: new Uint8Array(this.faces), reached: new Uint8Array(this.faces) };
  }

  /** Take a stroke one point further; returns the faces that it newly reaches. */
  extend(reach: Reach, point: Vector3): number[] {
    const { stroke, allowed, reached } = reach;
    const seed = this.bvh.closestPointToPoint(point)?.faceIndex;
    if (seed == null) return [];
    const crease =
      stroke.crease != null && stroke.crease < 180 ? Math.cos((stroke.crease * Math.PI) / 180) : -2;
    const stack: number[] = [];
    const fresh: number[] = [];
    const take = (f: number) => {
      if (!reached[f]) {
        reached[f] = 1;
        fresh.push(f);
        stack.push(f);
      }
    };
    if (stroke.tool === "brush") {
      const opened = this.within(point, stroke.radius ?? 0, allowed);
      // What was out of reach may now hang together with what was reached before.
      for (const f of opened)
        for (let e = 0; e < 3; e++) {
          const g = this.across[3 * f + e];
          if (g >= 0 && reached[g] && this.bend(f, g) >= crease) take(f);
        }
    } else allowed.fill(1);
    take(seed);
    for (let f = stack.pop(); f !== undefined; f = stack.pop()) {
      for (let e = 0; e < 3; e++) {
        const g = this.across[3 * f + e];
        if (g < 0 || reached[g] || !allowed[g] || this.bend(f, g) < crease) continue;
        if (stroke.tool === "flat" && this.bend(seed, g) < FLAT_COS) continue;
        take(g);
      }
    }
    return fresh;
  }

  private bend(f: number, g: number): number {
    const n = this.normals;
    return n[3 * f] * n[3 * g] + n[3 * f + 1] * n[3 * g + 1] + n[3 * f + 2] * n[3 * g + 2];
  }

  /** Faces whose middle lies within the radius and that were not allowed before. */
  private within(point: Vector3, radius: number, allowed: Uint8Array): number[] {
    const sphere = new Sphere(point, radius);
    const found: number[] = [];
    const corner = new Vector3();
    this.bvh.shapecast({
      intersectsBounds: (box: Box3) => {
        if (!sphere.intersectsBox(box)) return NOT_INTERSECTED;
        corner.set(
          Math.max(point.x - box.min.x, box.max.x - point.x),
          Math.max(point.y - box.min.y, box.max.y - point.y),
          Math.max(point.z - box.min.z, box.max.z - point.z),
        );
        return corner.lengthSq() < radius * radius ? CONTAINED : INTERSECTED;
      },
      intersectsTriangle: (_: unknown, f: number) => {
        const [x, y, z] = [
          this.middles[3 * f] - point.x,
          this.middles[3 * f + 1] - point.y,
          this.middles[3 * f + 2] - point.z,
        ];
        if (!allowed[f] && x * x + y * y + z * z <= radius * radius) {
          allowed[f] = 1;
          found.push(f);
        }
        return false;
      },
    });
    return found;
  }

  /** Do strokes again from nothing: what the page shows of marks that were kept. */
  replay(strokes: Stroke[], ground: Ground): Uint8Array {
    const labels = new Uint8Array(this.faces);
    for (const stroke of strokes) this.lay(labels, stroke, ground);
    return labels;
  }

  private lay(labels: Uint8Array, stroke: Stroke, { saying, plane, own }: Ground) {
    const code = codeOf(stroke.kind);
    if (stroke.tool === "clear") labels.fill(0);
    else if (stroke.tool === "file") own?.forEach((c, f) => c && (labels[f] = c));
    else if (stroke.tool === "propose") {
      const said = saying[stroke.what ?? ""];
      if (said) for (let f = 0; f < this.faces; f++) if (!labels[f] && said(f)) labels[f] = code;
    } else {
      this.sweep(labels, stroke, code, null);
      if (stroke.mirror && plane) this.sweep(labels, stroke, code, plane);
    }
  }

  private sweep(labels: Uint8Array, stroke: Stroke, code: number, mirror: Plane | null) {
    const reach = this.begin(stroke);
    for (const p of stroke.points ?? []) {
      const at = new Vector3(...p);
      for (const f of this.extend(reach, mirror ? reflected(at, mirror) : at)) labels[f] = code;
    }
  }
}

export function reflected(p: Vector3, plane: Plane): Vector3 {
  const n = new Vector3(...plane.normal);
  return p.clone().addScaledVector(n, -2 * (p.dot(n) - plane.offset));
}

/** The face across each edge (3 a face), or -1: edges listed by their lower vertex. */
function neighbours(index: ArrayLike<number>, vertices: number): Int32Array {
  const first = new Int32Array(vertices).fill(-1);
  const next = new Int32Array(index.length).fill(-1);
  const across = new Int32Array(index.length).fill(-1);
  for (let h = 0; h < index.length; h++) {
    const f = Math.floor(h / 3);
    const [a, b] = [index[h], index[3 * f + ((h + 1) % 3)]];
    const [low, high] = a < b ? [a, b] : [b, a];
    let held = first[low];
    for (; held >= 0; held = next[held]) {
      const g = Math.floor(held / 3);
      const [p, q] = [index[held], index[3 * g + ((held + 1) % 3)]];
      if (across[held] < 0 && g !== f && (p < q ? q : p) === high) break;
    }
    if (held >= 0) {
      across[held] = f;
      across[h] = Math.floor(held / 3);
    } else {
      next[h] = first[low];
      first[low] = h;
    }
  }
  return across;
}

const surfaces = new WeakMap<BufferGeometry, Surface>();

export function surfaceOf(geometry: BufferGeometry): Surface {
  let held = surfaces.get(geometry);
  if (!held) surfaces.set(geometry, (held = new Surface(geometry)));
  return held;
}

/** The same figure with corners of its own for every face, so that each face can carry a mark. */
export function unshared(geometry: BufferGeometry): BufferGeometry {
  const apart = geometry.toNonIndexed();
  apart.setAttribute(
    "mark",
    new BufferAttribute(new Uint8Array(apart.getAttribute("position").count), 1),
  );
  apart.boundingBox = geometry.boundingBox;
  return apart;
}

/** Put labels onto an unshared geometry, `soft` ones where there are none; with `faces`, those alone. */
export function show(
  apart: BufferGeometry,
  labels: Uint8Array,
  soft?: Uint8Array | null,
  faces?: number[],
) {
  const mark = apart.getAttribute("mark") as BufferAttribute;
  const held = mark.array as Uint8Array;
  const lay = (f: number) => held.fill(labels[f] || (soft?.[f] ?? 0), 3 * f, 3 * f + 3);
  if (faces) faces.forEach(lay);
  else for (let f = 0; f < labels.length; f++) lay(f);
  mark.needsUpdate = true;
}
