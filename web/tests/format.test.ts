import { describe, expect, it } from "vitest";
import { clock, hm, micron, mm, parse, percent, timesPlanned } from "../src/shell/format";

describe("numbers as people read them", () => {
  it.each([
    [0, "0:00"],
    [59 * 60 + 29, "0:59"],
    // never 0:60
    [59 * 60 + 31, "1:00"],
    [3 * 3600 - 1, "3:00"],
    [100 * 3600, "100:00"],
  ])("%d s is %s", (s, text) => {
    expect(hm(s)).toBe(text);
    expect(clock(s)).toBe(text.replace(":", " h "));
  });

  it("lengths and shares have their unit", () => {
    expect(mm(1.235)).toMatch(/^1\.2[34] mm$/);
    expect(micron(0.05)).toBe("50 µm");
    expect(percent(0.255)).toBe("26 %");
  });

  it("a comma is a point", () => {
    expect(parse(" 32,5 ")).toBe(32.5);
    expect(parse("x")).toBeNaN();
  });

  it("real over planned is told in words", () => {
    expect(timesPlanned(1.12)).toBe("12 % longer than planned");
    expect(timesPlanned(0.9)).toBe("10 % less than planned");
    expect(timesPlanned(1.001)).toBe("as long as planned");
  });
});
