import { expect, test } from "vitest";
import type { PrintFile } from "../src/api/client";
import { saidOf } from "../src/folds/proof/MachineFile";

const FILE: PrintFile = {
  schema: "tenugui/printfile@1",
  kind: "layers",
  sha: "0".repeat(64),
  size: 3 * 2 ** 20,
  printer: "heron",
  layer_height_mm: 0.05,
  layers: 1281,
  volume_ml: 6.204,
  time_s: 13140,
  differs: 0,
  lost_mm3: 0,
};

test("a written file says what it holds and that it was read back", () => {
  expect(saidOf(FILE)).toBe(
    "3.0 MB for heron: 1,281 layers of 0.05 mm, 6.20 ml, 3:39. Every pixel was read back and is what the plan says.",
  );
  expect(saidOf({ ...FILE, kind: "gcode", lost_mm3: 7.4 })).toContain(
    "lays down what was planned. 7 mm³ are thinner than a line, and lost.",
  );
  expect(saidOf({ ...FILE, differs: 2 })).toContain("2 layers do not hold what they say");
});
