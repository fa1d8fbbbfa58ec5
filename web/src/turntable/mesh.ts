import { BufferAttribute, BufferGeometry } from "three";

/** Unpack the server's compact mesh (see core/contract/preview.py) into a geometry with smooth normals. */
export function unpack(data: ArrayBuffer): BufferGeometry {
  const view = new DataView(data);
  if (view.getUint32(0, false) !== 0x544e4731) throw new Error("not a packed mesh");
  const vertices = view.getUint32(4, true);
  const faces = view.getUint32(8, true);
  const box = Array.from({ length: 6 }, (_, i) => view.getFloat32(12 + 4 * i, true));
  const q = new Uint16Array(data, 36, vertices * 3);
  const positions = new Float32Array(vertices * 3);
  for (let i = 0; i < q.length; i++) positions[i] = box[i % 3] + (q[i] / 65535) * box[3 + (i % 3)];
  const at = 36 + vertices * 6 + ((4 - ((vertices * 6) % 4)) % 4);
  const geometry = new BufferGeometry();
  geometry.setAttribute("position", new BufferAttribute(positions, 3));
  geometry.setIndex(new BufferAttribute(new Uint32Array(data, at, faces * 3), 1));
  geometry.setAttribute("thick", new BufferAttribute(new Float32Array(vertices).fill(1e9), 1));
  geometry.computeVertexNormals();
  geometry.computeBoundingBox();
  return geometry;
}

const MOST_KEPT = 12;
const kept = new Map<string, Promise<BufferGeometry>>();

/** A packed mesh by its blob's hash, fetched once. */
export function fetchMesh(sha: string): Promise<BufferGeometry> {
  let geometry = kept.get(sha);
  if (!geometry) {
    geometry = fetch(`/api/blobs/${sha}`).then(async (r) => {
      if (!r.ok) throw new Error(`preview ${r.status}`);
      return unpack(await r.arrayBuffer());
    });
    geometry.catch(() => kept.delete(sha));
    kept.set(sha, geometry);
    const [oldest] = kept.keys();
    if (kept.size > MOST_KEPT) kept.delete(oldest);
  }
  return geometry;
}

/** One number a vertex (see core/contract/preview.py), laid over a geometry as its thickness. */
export async function fetchThickness(sha: string, geometry: BufferGeometry): Promise<void> {
  const answer = await fetch(`/api/blobs/${sha}`);
  if (!answer.ok) throw new Error(`thickness ${answer.status}`);
  const data = await answer.arrayBuffer();
  const count = new DataView(data).getUint32(4, true);
  if (count !== geometry.getAttribute("position").count)
    throw new Error("the thickness belongs to another preview");
  geometry.setAttribute("thick", new BufferAttribute(new Float32Array(data, 8, count), 1));
}

/** One label a face (see core/contract/preview.py). */
export async function fetchLabels(sha: string): Promise<Uint8Array> {
  const answer = await fetch(`/api/blobs/${sha}`);
  if (!answer.ok) throw new Error(`labels ${answer.status}`);
  const data = await answer.arrayBuffer();
  if (new DataView(data).getUint32(0, false) !== 0x544e4c31) throw new Error("not packed labels");
  return new Uint8Array(data, 8, new DataView(data).getUint32(4, true));
}
