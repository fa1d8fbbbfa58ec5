// @vitest-environment happy-dom
import { act, renderHook } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import { dropped } from "../src/bench/bringIn";
import { forgetDraft, useStrokes } from "../src/folds/marks/useStrokes";
import type { Stroke } from "../src/turntable/surface";
import { fold, plan } from "./page";

const stroke = (what: string): Stroke =>
  ({ tool: "flat", kind: "show", points: [], what }) as unknown as Stroke;

describe("strokes that were not taken yet", () => {
  const marked = plan({
    folds: plan().folds.map((f) =>
      f.name === "marks"
        ? fold("marks", { choice: { strokes: [stroke("settled")], bare: false } as never })
        : f,
    ),
  });

  it("start from what is settled, and are undone and redone one by one", () => {
    const { result } = renderHook(() => useStrokes(marked));
    expect(result.current.strokes).toHaveLength(1);
    expect(result.current.dirty).toBe(false);
    act(() => result.current.add(stroke("new")));
    expect(result.current.dirty).toBe(true);
    act(() => result.current.back());
    expect(result.current.dirty).toBe(false);
    expect(result.current.undone).toHaveLength(1);
    act(() => result.current.forth());
    expect(result.current.strokes.at(-1)).toEqual(stroke("new"));
    act(() => result.current.back());
    act(() => result.current.add(stroke("other")));
    expect(result.current.undone).toEqual([]);
  });

  it("survive leaving the page, until they are taken or forgotten", () => {
    const first = renderHook(() => useStrokes(marked));
    act(() => first.result.current.add(stroke("new")));
    first.unmount();
    const second = renderHook(() => useStrokes(marked));
    expect(second.result.current.strokes).toHaveLength(2);
    forgetDraft(7);
    second.unmount();
    expect(renderHook(() => useStrokes(marked)).result.current.strokes).toHaveLength(1);
  });

  it("are left alone where what is kept cannot be read", () => {
    localStorage.setItem("tenugui-marks-7", "{not json");
    expect(renderHook(() => useStrokes(marked)).result.current.strokes).toHaveLength(1);
    expect(localStorage.getItem("tenugui-marks-7")).toBeNull();
  });

  it("count a bare figure as a change", () => {
    const { result } = renderHook(() => useStrokes(marked));
    act(() => result.current.setBare(true));
    expect(result.current.dirty).toBe(true);
  });
});

describe("a drop", () => {
  const file = (name: string) =>
    ({
      isFile: true,
      isDirectory: false,
      name,
      file: (done: (f: File) => void) => done(new File([], name)),
    }) as never;
  const folder = (name: string, inner: unknown[]) => {
    let left = [inner, []];
    return {
      isFile: false,
      isDirectory: true,
      name,
      createReader: () => ({
        readEntries: (done: (e: unknown[]) => void) => {
          const [some, ...rest] = left;
          left = rest;
          done(some);
        },
      }),
    } as never;
  };
  const transfer = (entries: unknown[], files: File[] = []) =>
    ({
      items: entries.map((e) => ({ webkitGetAsEntry: () => e })),
      files,
    }) as unknown as DataTransfer;

  it("of files is one batch", async () => {
    const files = [new File([], "a.stl"), new File([], "b.stl")];
    expect(await dropped(transfer([file("a.stl"), file("b.stl")], files))).toEqual([
      { folder: null, files },
    ]);
  });

  it("of a folder is walked for what can be a figure", async () => {
    const inner = folder("limbs", [file("arm.obj"), file("paint.txt")]);
    const [kit, single] = await dropped(
      transfer([
        folder("stilt-giant", [file("torso.STL"), inner, file("readme.md")]),
        file("toad.ply"),
      ]),
    );
    expect(kit.folder).toBe("stilt-giant");
    expect(kit.files.map((f) => f.name)).toEqual(["torso.STL", "arm.obj"]);
    expect(single.files.map((f) => f.name)).toEqual(["toad.ply"]);
  });
});
