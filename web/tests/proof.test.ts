import { expect, it } from "vitest";
import type { Hazard } from "../src/api/client";
import { withoutSpecks } from "../src/folds/proof/specks";

const hazard = (code: string, loss: Hazard["loss"], chance: number, layer: number): Hazard => ({
  code,
  loss,
  chance,
  layer,
  severity: "notice",
  x_mm: 0,
  y_mm: 0,
  z_mm: layer / 20,
  message: code,
  remedy: "",
  chance_is: "prior",
  has: 2,
  needs: 1,
  unit: "layers alone",
  part: "",
  given: null,
  safety: 1,
  margins: [],
  tried: 1,
  scatter: 1,
  times: 1,
});
const speck = (layer: number, chance: number) => hazard("island", "scar", chance, layer);
const others = [hazard("pull", "print lost", 0.2, 5), hazard("island", "part lost", 0.9, 9)];

it("tells many specks in one line, where the likeliest stood, and leaves parts alone", () => {
  const many = [others[0], speck(100, 0.9), others[1], speck(50, 0.6), speck(60, 0.4)];
  const told = withoutSpecks(many);
  expect(told.map((h) => h.code)).toEqual(["pull", "island", "island"]);
  expect(told[1].message).toBe(
    "3 specks of relief start in mid air and join soon; about 2 leave a mark, this one likeliest, at 5.0 mm.",
  );
  expect(told[2]).toBe(others[1]);
});

it("leaves a few as they are", () => {
  const few = [...others, speck(100, 0.2), speck(50, 0.1)];
  expect(withoutSpecks(few)).toBe(few);
});
