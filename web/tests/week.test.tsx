// @vitest-environment happy-dom
import { describe, expect, test } from "vitest";
import { called, minuteOf, sayTime, timeOf } from "../src/week/api";
import { ragged, shortened } from "../src/week/Band";
import { lanesOf } from "../src/week/Knots";
import { elseOf } from "../src/week/Slot";
import { lineOf } from "../src/week/WeekPage";
import { middleOf, turnedBy } from "../src/plates/Bed";
import { lineOf as plateLine } from "../src/plates/PlatePage";
import type { Order, Week } from "../src/week/api";
import type { Whole } from "../src/plates/api";

const order = (change: Partial<Order>): Order => ({
  id: 1,
  name: "Gate",
  plan_id: 1,
  plate_id: null,
  figure_name: "Warden",
  plate_name: null,
  copies: 1,
  made: 0,
  due: "2026-12-03T20:00",
  chance: 0.9,
  goes: "primed",
  jobs: [{ name: "Gate (1)", nth: 1 }],
  pinned: [],
  ready: true,
  said: "",
  sure: 0.97,
  ...change,
});

const week = (change: Partial<Week>) =>
  ({
    nothing: "",
    orders: [order({})],
    week: { runs: [{ job: "Gate (1)" }], optimal: true, gap: 0 },
    ...change,
  }) as unknown as Week;

describe("the week in words", () => {
  test("the weakest date is named, with how surely it is kept", () => {
    const two = week({ orders: [order({}), order({ id: 2, name: "Ferry", sure: 0.71 })] });
    expect(lineOf(two)).toBe(
      "2 dates, 1 run, no plan is better. In a thousand simulated weeks Ferry is ready in 71 %.",
    );
    expect(lineOf(week({ nothing: "Nothing is ordered." }))).toBe("Nothing is ordered.");
    expect(lineOf(week({ orders: [order({ due: null, sure: null })] }))).toContain(
      "nothing of it by a date",
    );
  });

  test("a time of today is its clock, of another day its day too; a job goes without its number", () => {
    expect(sayTime("2026-12-03T20:00", "2026-12-03T08:00")).toBe("20:00");
    expect(sayTime("2026-12-05T07:05", "2026-12-03T08:00")).toBe("Sat 5, 07:05");
    expect(timeOf(minuteOf("2026-12-05T07:05"))).toBe("2026-12-05T07:05");
    expect(called("Gate (old) 2 (17)")).toBe("Gate (old) 2");
  });

  test("names get the room that there is, labels a line of their own where they meet", () => {
    expect(shortened("Warden", 100)).toBe("Warden");
    expect(shortened("Warden for the lamp man", 60)).toBe("Warden fo…");
    expect(shortened("Warden for the lamp man", 20)).toBe("");
    expect(
      lanesOf([
        [0, 50],
        [40, 90],
        [70, 95],
        [110, 150],
      ]),
    ).toEqual([0, 1, 0, 0]);
    expect(ragged(10, 50, 60, 5, 28)).toMatch(/^M10\.0 5L.*L10\.0 33Z$/);
  });

  test("a slot says how else it would fit", () => {
    const fit = {
      plan_id: 1,
      figure_name: "Warden",
      plan_number: 1,
      layer_mm: 0.05,
      hours: 6,
      hours_95: 6.6,
      fits: false,
      heights: [[0.1, 3.1]] as [number, number][],
      size: 0.8,
      size_mm: 61,
    };
    expect(elseOf(fit)).toBe(
      "at 0.10 mm it takes 3.1 h; at 61 mm tall with supports it would just fit (prior)",
    );
    expect(elseOf({ ...fit, fits: true, size_mm: null, heights: [[0.03, 9.5]] })).toBe(
      "finer too: 0.03 mm in 9.5 h",
    );
  });
});

describe("a plate by hand", () => {
  const at = { plan_id: 1, nth: 1, plate: 0, x_mm: 40, y_mm: 30, turn_deg: 350, pinned: false };

  test("a piece turns about its middle, and four quarters bring it back", () => {
    const middle = middleOf([
      [30, 30],
      [50, 30],
      [50, 50],
      [30, 50],
    ]);
    expect(middle).toEqual([40, 40]);
    const quarter = turnedBy(at, middle, 90);
    expect([quarter.x_mm, quarter.y_mm, quarter.turn_deg].map(Math.round)).toEqual([50, 40, 80]);
    const round = [1, 2, 3].reduce((now) => turnedBy(now, middle, 90), quarter);
    expect([round.x_mm, round.y_mm, round.turn_deg].map((v) => Math.round(v * 1e6) / 1e6)).toEqual([
      40, 30, 350,
    ]);
  });

  test("plates are told in one line", () => {
    const whole = { plates: [], unlaid: 12, hours_per_good_piece: null } as unknown as Whole;
    expect(plateLine(whole)).toBe("12 pieces wait to be laid out.");
    const laid = {
      plates: [{ doc: { items: [{}, {}], good: 1.9, time_s: 7200 } }],
      unlaid: 0,
      hours_per_good_piece: 1.0526,
    } as unknown as Whole;
    expect(plateLine(laid)).toBe(
      "2 pieces on one plate, 2 h 00: 1.9 come off whole on average (prior), 1.05 h a good one.",
    );
  });
});
