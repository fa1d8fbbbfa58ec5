import { describe, expect, it } from "vitest";
import { specOf, typedOf, wrongWith, type Field } from "../src/shelf/values";

const field = (change: Partial<Field>): Field => ({
  name: "lift_mm",
  group: "Lift",
  title: "Lift",
  unit: "mm",
  kind: "number",
  many: 1,
  low: 0,
  high: 100,
  above: true,
  optional: false,
  default: null,
  words: [],
  ...change,
});

describe("a machine as a form", () => {
  const pair = field({ many: 2, default: [2.5, 3.5] });
  const known = field({ name: "depth", optional: true, above: false, low: 0.01, high: 2 });
  const steps = field({
    name: "steps",
    kind: "whole",
    above: false,
    low: 4,
    high: 10_000,
    default: 200,
  });

  it("comes back as it was kept, whatever is not asked left out", () => {
    const spec = { lift_mm: [2, 4.25], depth: null, steps: 400 };
    const typed = typedOf([pair, known, steps], spec);
    expect(typed).toEqual({ lift_mm: ["2", "4.25"], depth: [""], steps: ["400"] });
    expect(specOf([pair, known, steps], typed, " wader ", "resin")).toEqual({
      name: "wader",
      process: "resin",
      lift_mm: [2, 4.25],
      steps: 400,
    });
  });

  it("begins with the priors where it is new", () => {
    expect(typedOf([pair, steps], {})).toEqual({ lift_mm: ["2.5", "3.5"], steps: ["200"] });
  });

  it("says what is wrong with a number before it is sent", () => {
    expect(wrongWith(pair, ["2", ""])).toBe("a number is missing");
    expect(wrongWith(pair, ["2", "x"])).toBe("not a number");
    expect(wrongWith(pair, ["0", "3"])).toBe("above 0 to 100");
    expect(wrongWith(pair, ["0.1", "100"])).toBeNull();
    expect(wrongWith(steps, ["4.5"])).toBe("whole numbers only");
    expect(wrongWith(steps, ["3"])).toBe("from 4 to 10,000");
    expect(wrongWith(known, [""])).toBeNull();
  });
});
