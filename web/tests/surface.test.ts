import { BufferAttribute, BufferGeometry, Ray, Vector3 } from "three";
import { describe, expect, it } from "vitest";
import shared from "../../tests/fixtures/strokes.json";
import { codeOf, KINDS } from "../src/patterns/kinds";
import { reflected, Surface, unshared, show, type Stroke } from "../src/turntable/surface";

function shape(): BufferGeometry {
  const geometry = new BufferGeometry();
  geometry.setAttribute(
    "position",
    new BufferAttribute(Float32Array.from(shared.vertices.flat()), 3),
  );
  geometry.setIndex(new BufferAttribute(Uint32Array.from(shared.faces.flat()), 1));
  return geometry;
}

const bare = (surface: Surface) => ({ surface, saying: {}, plane: null, own: null });

describe("strokes", () => {
  const surface = new Surface(shape());

  it.each(shared.cases.map((c, i) => [i, c] as const))("case %i is what the core says", (_, c) => {
    const labels = surface.replay(c.strokes as Stroke[], bare(surface));
    expect([...labels]).toEqual(c.labels);
  });

  it("painting as the hand goes gives what is replayed", () => {
    const [{ strokes }] = shared.cases;
    const stroke = strokes[0] as Stroke;
    const labels = new Uint8Array(surface.faces);
    const reach = surface.begin(stroke);
    for (const p of stroke.points ?? [])
      for (const f of surface.extend(reach, new Vector3(...p))) labels[f] = codeOf(stroke.kind);
    expect([...labels]).toEqual([...surface.replay([stroke], bare(surface))]);
  });

  it("a proposal lies only where nothing lies", () => {
    const flat: Stroke = { tool: "flat", kind: "fit", points: [[-5, 0.3, 0.2]] };
    const all: Stroke = { tool: "propose", kind: "show", what: "seen" };
    const said = { ...bare(surface), saying: { seen: () => true } };
    const labels = surface.replay([flat, all], said);
    expect(new Set(labels)).toEqual(new Set([codeOf("fit"), codeOf("show")]));
    const alone = surface.replay([flat], said);
    alone.forEach((c, f) => c && expect(labels[f]).toBe(c));
  });

  it("a mirrored stroke reaches the other side", () => {
    const plane = { normal: [1, 0, 0] as [number, number, number], offset: 0 };
    const stroke: Stroke = { tool: "flat", kind: "fit", points: [[-5, 0.3, 0.2]], mirror: true };
    const labels = surface.replay([stroke], { ...bare(surface), plane });
    const once = surface.replay([{ ...stroke, mirror: false }], { ...bare(surface), plane });
    expect(labels.filter(Boolean).length).toBe(2 * once.filter(Boolean).length);
    expect(reflected(new Vector3(2, 1, 0), plane).toArray()).toEqual([-2, 1, 0]);
  });

  it("a ray meets the figure where it first does", () => {
    const hit = surface.hit(new Ray(new Vector3(0.3, 0.2, 50), new Vector3(0, 0, -1)));
    expect(hit?.z).toBeCloseTo(3, 5);
  });

  it("areas are those of the faces", () => {
    const box = 2 * (10 * 8 + 10 * 6 + 8 * 6);
    const flat = surface.areas.slice(0, shared.cases[0].labels.length - 320);
    expect(flat.reduce((a, b) => a + b, 0)).toBeCloseTo(box, 2);
  });

  it("labels lie on all three corners of a face", () => {
    const apart = unshared(surface.geometry);
    const labels = new Uint8Array(surface.faces);
    labels[3] = 2;
    show(apart, labels);
    const mark = apart.getAttribute("mark").array;
    expect([...mark].flatMap((m, i) => (m ? [i] : []))).toEqual([9, 10, 11]);
  });
});

it("kinds have the core's labels", () => {
  expect(KINDS.map(codeOf)).toEqual([1, 2, 3, 4, 5]);
  expect(codeOf("none")).toBe(0);
});
