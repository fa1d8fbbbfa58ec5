// @vitest-environment happy-dom
import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import { measured, restsOn } from "../src/able/Ability";
import type { AbilityRow, RunWhole, SeriesWhole } from "../src/api/memory";
import { wordsOf } from "../src/run/BesidePage";
import { Desk, heldLine } from "../src/run/Desk";
import { Pins } from "../src/run/Pins";
import { resultOf } from "../src/run/RunPage";
import { Since } from "../src/run/Since";
import { Effects } from "../src/series/Effects";
import { bookOf, effectsOf, foundIn, summed } from "../src/series/read";
import { pieceOf } from "../src/series/SeriesList";
import { lineOf } from "../src/series/SeriesPage";
import { levelsOf } from "../src/series/SpecEditor";
import { Swatches } from "../src/series/Swatches";
import { run, served, shown } from "./page";

const whole = (change: Partial<RunWhole> = {}): RunWhole => ({
  run: run({ id: 5, result: "part lost", failed_layer: 120, real_s: 5400, process: "resin" }),
  frozen: [],
  since: [],
  told: [],
  pins: [],
  photos: [],
  layers: 900,
  ...change,
});

describe("a run that remembers", () => {
  it("tells what became of it beside what was planned", () => {
    expect(resultOf(whole())).toMatch(/part lost from layer 120 of 900 after 1 h 30; planned/);
    expect(resultOf(whole({ run: run({ result: null }) }))).toMatch(/No outcome is logged yet/);
  });

  it("says when one thing was changed, and when too many were", () => {
    const line = (name: string) => ({ where: "printer" as const, name, now: "2", before: "1" });
    const since = (n: number, id: number) => ({
      same: "figure" as const,
      run_id: id,
      figure_name: "Reed warden",
      started_at: "2026-11-02T10:00:00",
      result: "good",
      changed: Array.from({ length: n }, (_, k) => line(`setting ${k}`)),
    });
    shown(<Since run={5} since={[since(1, 3), since(10, 2), since(0, 1)]} />);
    expect(screen.getByText(/one thing was set otherwise/)).toBeDefined();
    expect(screen.getByText(/10 things were set otherwise/)).toBeDefined();
    expect(screen.getByText(/nothing was set otherwise/)).toBeDefined();
    expect(screen.getByText("and 2 more in the sheet")).toBeDefined();
  });

  it("pins what was seen where it was seen", async () => {
    const asked = served({
      "GET /api/cues/resin": [{ code: "hanging", words: "a piece hangs" }],
      "POST /api/runs/5/pins": 9,
    });
    const places: unknown[] = [];
    shown(
      <Pins
        held={whole()}
        where={{ layer: 12, place: [1, 2, 3] }}
        onWhere={(w) => places.push(w)}
        shown={null}
        onShown={() => undefined}
      />,
    );
    const button = screen.getByRole<HTMLButtonElement>("button", { name: "Pin it there" });
    expect(button.disabled).toBe(true);
    await userEvent.click(screen.getByRole("combobox", { name: "What was seen" }));
    await userEvent.click(await screen.findByRole("option", { name: "a piece hangs" }));
    await userEvent.click(button);
    await waitFor(() => expect(places.at(-1)).toEqual({ layer: null, place: null }));
    expect(asked.find((a) => a.method === "POST")?.body).toEqual({
      cue: "hanging",
      layer: 12,
      place: [1, 2, 3],
      note: "",
    });
  });

  it("asks first whether anything held it, and names the next test", async () => {
    expect(heldLine({ held: false, proved: true })).toMatch(/Was it held at all\?/);
    expect(heldLine({ held: true, proved: true })).toMatch(/Something held it/);
    expect(heldLine({ held: null, proved: false })).toMatch(/priors/);
    expect(heldLine({ held: null, proved: true })).toMatch(/^Priors, weighed/);
    served({
      "GET /api/runs/5/desk": {
        cue: "hanging",
        words: "a piece hangs",
        held: false,
        proved: true,
        learnt_from: 0,
        next: 1,
        suspects: [
          { code: "a", words: "first", chance: 0.7, told: 0.2, times: 1, test: "t", minutes: 50 },
          {
            code: "b",
            words: "second",
            chance: 0.3,
            told: 0,
            times: 2.5,
            test: "one block",
            minutes: 5,
            series: "heights",
          },
        ],
      },
    });
    const pin = { id: 1, cue: "hanging", words: "", layer: 4, place: null, note: "" };
    shown(<Desk run={5} pin={pin} />);
    expect(await screen.findByText("Next: one block")).toBeDefined();
    expect(screen.getByText(/the proof told 20 % there/)).toBeDefined();
    expect(screen.getByText(/2.5 times as often as told here/)).toBeDefined();
    expect(screen.getByRole("link", { name: "Make it a series" })).toHaveAttribute(
      "href",
      "/series?new=heights",
    );
  });
});

const series = (change: Partial<SeriesWhole["doc"]> = {}): SeriesWhole => ({
  id: 3,
  name: "Gap",
  figure_id: null,
  figure_name: null,
  created_at: "2026-11-02T10:00:00",
  spec: {
    factors: { gap: [0.1, 0.2], roof: [1, 2] },
    responses: { off: "yesno", minutes: "time" },
    repeats: 2,
    rate_per_h: null,
    coins_each: {},
    cells: null,
  },
  doc: {
    schema: "tenugui/series@1",
    cells: [
      { factors: { gap: 0.1, roof: 1 }, runs: 2 },
      { factors: { gap: 0.2, roof: 2 }, runs: 2 },
    ],
    missing: [
      { gap: 0.1, roof: 2 },
      { gap: 0.2, roof: 1 },
    ],
    aliased: [["gap", "roof"]],
    effects: [
      { response: "off", factor: "gap", level: 0.1, estimate: 0.2, low: 0.1, high: 0.4 },
      { response: "off", factor: "gap", level: 0.2, estimate: 0.9, low: 0.6, high: 1 },
    ],
    best: [{ response: "off", factor: "gap", level: 0.2, chance: 0.97 }],
    knee: {
      factor: "gap",
      level: 0.2,
      response: "off",
      hours: 1,
      buys: 2,
      costs: 3,
    },
    next: null,
    few: true,
    said: [],
    ...change,
  },
  set_in_plans: [],
  by_hand: ["gap"],
  troubled: [],
  specimens: [
    {
      id: 1,
      name: "1",
      levels: { gap: 0.1, roof: 1 },
      cell: 0,
      found: { off: "no" },
      run_id: null,
      plan_id: null,
      version: 2,
    },
    {
      id: 2,
      name: "2",
      levels: { gap: 0.2, roof: 2 },
      cell: 1,
      found: { off: "yes" },
      run_id: null,
      plan_id: null,
      version: 2,
    },
    {
      id: 3,
      name: "3",
      levels: { gap: 0.2, roof: 2 },
      cell: 1,
      found: {},
      run_id: null,
      plan_id: null,
      version: 1,
    },
  ],
});

describe("a series", () => {
  it("is a book of swatches: bare where nothing is planned, sewn where factors move together", () => {
    const book = bookOf(series().spec, series().doc);
    expect([book.rows, book.columns, book.across]).toEqual([["0.1", "0.2"], ["1", "2"], "roof"]);
    expect([book.at("0.1", "1"), book.at("0.1", "2")]).toEqual([0, null]);
    shown(<Swatches series={series()} response="off" shown={null} onShown={() => undefined} />);
    expect(screen.getByText(/gap and roof are sewn together/)).toBeDefined();
    expect(screen.getAllByText("not planned")).toHaveLength(2);
    const table = within(screen.getByRole("table", { name: "Swatches" }));
    expect(table.getByRole("button", { name: /1 of 1\s*1 of 2/ })).toBeDefined();
  });

  it("sums what was found by its kind", () => {
    expect(foundIn(series().specimens, 1, "off")).toEqual(["yes"]);
    expect([summed(["yes", "no", "1"], "yesno"), summed([], "yesno")]).toEqual(["2 of 3", ""]);
    expect([summed(["3", "4,5"], "time"), summed(["2 3"], "preference")]).toEqual(["3.75", "2 3"]);
  });

  it("tells effects with their chance to be best, and the knee", () => {
    const [effect] = effectsOf(series().doc);
    expect(effect.levels.map((l) => l.best)).toEqual([null, 0.97]);
    expect(lineOf(series())).toBe("2 of 3 looked at. gap 0.2 is best for off (97 %).");
    expect(lineOf({ ...series(), specimens: [] })).toMatch(/none looked at yet/);
    shown(<Effects series={series()} />);
    expect(
      screen.getByRole("img", { name: "0.1: 0.2, 0.1 to 0.4; 0.2: 0.9, 0.6 to 1" }),
    ).toBeDefined();
    expect(screen.getByText(/The knee: gap 0.2. The next step costs 1.0 h/)).toBeDefined();
  });

  it("reads levels as they are typed, and asks its piece at them", () => {
    expect(levelsOf("0.1, 0.2 0.3")).toEqual([0.1, 0.2, 0.3]);
    expect(levelsOf("grid, waves")).toEqual(["grid", "waves"]);
    expect([levelsOf("1"), levelsOf("1, 1"), levelsOf("")]).toEqual([null, null, null]);
    const offer = {
      code: "b",
      title: "",
      asks: "",
      piece: "bridge",
      ability: "bridge",
      spec: series().spec,
    };
    expect(pieceOf(offer)).toBe("/api/series/pieces/bridge?levels=0.1&levels=0.2");
    expect(pieceOf({ ...offer, ability: null })).toBe("/api/series/pieces/bridge");
  });
});

describe("what a machine can do", () => {
  const lean = {
    unit: "°",
    angle: true,
    seen: 0,
    words: 0,
    last: null,
    old: false,
    contradicted: false,
    prior: 55,
    prior_spread: 8,
  } as AbilityRow;

  it("tells angles both ways", () => {
    expect(measured(lean, 60)).toBe("60° from the vertical (30° from the plate)");
    expect(measured({ unit: "mm", angle: false }, 0.2034)).toBe("0.203 mm");
  });

  it("says on what a value rests, and what is wrong with it", () => {
    expect(restsOn(lean)).toMatch(/^A prior: 55°/);
    expect(restsOn({ ...lean, seen: 3, words: 1 })).toBe("Rests on 2 prints and your word.");
    const odd = { ...lean, seen: 1, contradicted: true, old: true };
    expect(restsOn(odd)).toBe(
      "Rests on 1 print. That is long ago. Some of it contradicts the rest: print it again.",
    );
  });
});

describe("two runs beside each other", () => {
  const changed = (n: number) =>
    Array.from({ length: n }, (_, k) => ({
      where: "plan" as const,
      name: `setting ${k}`,
      now: "2",
      before: "1",
    }));
  it("say what may be concluded", () => {
    expect(wordsOf({ changed: [], pairs: [] })).toMatch(/luck, wear or the room/);
    expect(wordsOf({ changed: changed(1), pairs: [] })).toMatch(/^One thing was set otherwise/);
    expect(wordsOf({ changed: changed(3), pairs: [] })).toMatch(/^3 things/);
    const unsaid = { stage: "bare" as const, side: "not said" as const };
    expect(wordsOf({ changed: [], pairs: [{ ...unsaid, photos: [1, null] }] })).toMatch(
      /from which side/,
    );
  });
});
