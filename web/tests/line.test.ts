import { describe, expect, it } from "vitest";
import { beside, pointsOf } from "../src/line/points";

describe("two plans in an address", () => {
  it("are read as they were written", () => {
    const [one, other] = [
      { plan: 3, at: 41 },
      { plan: 7, at: null },
    ];
    const said = beside(one, other);
    expect(said).toBe("/compare?a=3&b=7&at_a=41");
    expect(pointsOf(new URLSearchParams(said.split("?")[1]))).toEqual([one, other]);
  });

  it("are none where the address is mistyped", () => {
    const [one, other] = pointsOf(new URLSearchParams("a=x&b=-3&at_a=1e9"));
    expect([one, other]).toEqual([
      { plan: 0, at: null },
      { plan: 0, at: null },
    ]);
  });
});
