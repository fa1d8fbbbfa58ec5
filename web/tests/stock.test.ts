import { describe, expect, it } from "vitest";
import { amountOf, didWords, lastsLine } from "../src/stock/words";

describe("stock in words", () => {
  const row = { a_day: 12.34, days: 8.2, before: null, needed: 0, unit: "g" };
  it("says how long it lasts and for what", () => {
    expect(lastsLine(row)).toBe("12.3 g a day lately: it lasts some 8 days.");
    expect(lastsLine({ ...row, days: null })).toBe("Nothing of it was used lately.");
    expect(lastsLine({ ...row, needed: 60 })).toMatch(/^Enough for the 60 g of plates that wait\./);
    expect(lastsLine({ ...row, before: "Wardens, plate 2" })).toMatch(
      /^It runs out before Wardens, plate 2\./,
    );
  });
  it("tells amounts and notes", () => {
    expect(amountOf(1234.4, "g")).toBe("1,234 g");
    const step = {
      id: 1,
      did: "counted" as const,
      amount: 300,
      note: "",
      at: "2026-11-30T10:00:00",
    };
    expect(didWords(step, "ml")).toMatch(/300 ml counted\.$/);
  });
});
