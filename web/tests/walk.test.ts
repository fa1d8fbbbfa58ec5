import { expect, test } from "vitest";
import { stopFrom } from "../src/folds/proof/Walk";

const stop = (kind: "starts" | "hangs", layer: number) => ({
  kind,
  layer,
  x_mm: 0,
  y_mm: 0,
  z_mm: layer / 10,
  said: `${kind} ${layer}`,
});
const STOPS = [stop("starts", 4), stop("hangs", 9), stop("starts", 9), stop("hangs", 30)];

test("the next stop is the nearest above, the one before the nearest below", () => {
  expect(stopFrom(STOPS, 4, 1)?.said).toBe("hangs 9");
  expect(stopFrom(STOPS, 30, -1)?.layer).toBe(9);
  expect(stopFrom(STOPS, 9, -1)?.layer).toBe(4);
  expect(stopFrom(STOPS, 30, 1)).toBeUndefined();
  expect(stopFrom(STOPS, 4, -1)).toBeUndefined();
});

test("of one kind others are passed over", () => {
  expect(stopFrom(STOPS, 1, 1, "hangs")?.layer).toBe(9);
  expect(stopFrom(STOPS, 9, 1, "starts")).toBeUndefined();
  expect(stopFrom(STOPS, 30, -1, "starts")?.layer).toBe(9);
});
