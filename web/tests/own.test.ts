import { describe, expect, it } from "vitest";
import { asOwn, keyOf, wrongOf } from "../src/line/own";
import type { Settable } from "../src/line/api";

const of = (name: string, more: Partial<Settable> = {}): Settable => ({
  table: "printers",
  name,
  title: name,
  unit: "mm",
  low: 0,
  high: 5,
  whole: false,
  now: 1,
  ...more,
});

describe("settings of a plan's own", () => {
  it("are checked as they are typed", () => {
    const gap = of("gap");
    expect(wrongOf(gap, "0,3")).toBeNull();
    expect(wrongOf(gap, "")).toContain("type a number");
    expect(wrongOf(gap, "9")).toBe("gap: from 0 to 5 mm.");
    expect(wrongOf(of("layers", { whole: true }), "1.5")).toContain("whole");
  });
  it("come by table and field", () => {
    const chosen = [of("gap"), of("seconds", { table: "materials" })];
    const typed = { [keyOf(chosen[0])]: "0,3", [keyOf(chosen[1])]: "2.5" };
    expect(asOwn(chosen, typed)).toEqual({ printers: { gap: 0.3 }, materials: { seconds: 2.5 } });
  });
});
