// @vitest-environment happy-dom
import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import type { Night, Row, Way } from "../src/night/api";
import { NightPage } from "../src/night/NightPage";
import { NightsPage } from "../src/night/NightsPage";
import { inOrder, limitOf, lookFirst, NUMBERS, stateWords, waysOf } from "../src/night/words";
import { served, shown } from "./page";

const way = (printer: string, coins: number, change: Partial<Way> = {}): Way => ({
  printer,
  material: "lantern grey",
  layer_height_mm: 0.05,
  time_s: 7200,
  hands_min: 31.4,
  mass_g: 12.6,
  risk: 0.03,
  tips: 17,
  coins,
  lean_deg: 0,
  beyond: [],
  picture: "a".repeat(64),
  plan: {},
  ...change,
});

const planned = (file: string): NonNullable<Row["row"]> => ({
  file,
  key: "",
  size_mm: [10, 12, 54],
  ways: [way("heron", 6), way("kestrel", 4)],
  best: 0,
  look: [],
  refused: [],
  seconds: 9,
});

const row = (figure_id: number, name: string, change: Partial<Row> = {}): Row => ({
  figure_id,
  name,
  state: "planned",
  share: 1,
  doing: "",
  problem: null,
  row: planned(name),
  ...change,
});

const night = (rows: Row[], change: Partial<Night> = {}): Night => ({
  id: 3,
  begun_at: "2026-12-01T22:10:00",
  asked: {
    machines: [{ printer_id: 1, material_id: 2 }],
    height_mm: null,
    most_risk: 0.2,
    most_hours: 10_000,
  },
  rows,
  plates: [
    { printer: "heron", material: "lantern grey", pieces: ["Warden"], time_s: 7200, risk: 0.03 },
  ],
  unplaced: [],
  hours: 2,
  planned: 1,
  looked_first: 1,
  ...change,
});

describe("a night in words", () => {
  it("names the best way before cheaper ones beyond the limits", () => {
    expect(waysOf(row(1, "Warden")).map((w) => [w.way.printer, w.named, w.place])).toEqual([
      ["heron", true, 0],
      ["kestrel", false, 1],
    ]);
    expect(NUMBERS.map(([name, of]) => `${name} ${of(way("heron", 6))}`)).toEqual([
      "layer 0.05 mm",
      "hours 2:00",
      "by hand 31 min",
      "weight 13 g",
      "supports 17",
      "lost 3 %",
      "coins 6.0",
    ]);
  });
  it("says what wants an eye, and puts that on top", () => {
    const none = row(2, "Abbot", {
      row: {
        ...planned("Abbot"),
        best: null,
        look: ["its file was mended"],
        ways: [way("heron", 6, { beyond: ["3.0 hours, more than 2"] })],
        refused: [{ code: "x", where: "kestrel", what: "Too tall.", remedy: "Make it less." }],
      },
    });
    expect(lookFirst(none)).toEqual([
      "kestrel: Too tall. Make it less.",
      "heron: 3.0 hours, more than 2",
      "its file was mended",
    ]);
    const open = row(3, "Giant", {
      state: "running",
      share: 0.4,
      doing: "reading layers",
      row: null,
    });
    expect(stateWords(open)).toBe("reading layers, 40 %");
    expect(inOrder([open, row(1, "Warden"), none]).map((r) => r.name)).toEqual([
      "Abbot",
      "Warden",
      "Giant",
    ]);
  });
  it("reads limits as they are typed", () => {
    expect([
      limitOf("", 100),
      limitOf(" 2,5 ", 100),
      limitOf("0", 100),
      limitOf("101", 100),
    ]).toEqual([undefined, 2.5, null, null]);
  });
});

describe("the page of a night", () => {
  it("tells it, holds it to other limits and goes on", async () => {
    const left = row(2, "Abbot", { state: "open", row: null });
    const asked = served({
      "GET /api/nights/3": night([row(1, "Warden"), left]),
      "PUT /api/nights/3/limits": night([row(1, "Warden"), left], { planned: 0 }),
      "POST /api/nights/3/go-on": night([row(1, "Warden"), row(2, "Abbot")], { planned: 2 }),
    });
    shown(<NightPage />, "/night/3");
    await screen.findByText(/1 of 2 planned within the limits, 1 want a look first/);
    await userEvent.clear(screen.getByLabelText("Most risk, per cent"));
    await userEvent.type(screen.getByLabelText("Most hours"), "1,5");
    await userEvent.click(screen.getByRole("button", { name: "hold them to that" }));
    await screen.findByText(/0 of 2 planned/);
    expect(asked.find((a) => a.method === "PUT")?.body).toEqual({ most_risk: 1, most_hours: 1.5 });
    await userEvent.click(screen.getByRole("button", { name: "Go on with what is left" }));
    await screen.findByText(/2 of 2 planned/);
    expect(screen.queryByRole("button", { name: "Go on with what is left" }) === null).toBe(true);
  });
});

describe("a new night", () => {
  it("is of figures that are examined, on machines with a material of their process", async () => {
    const figure = { triangles: 9, created_at: "2026-11-30T10:00:00", plan_id: 4, problem: null };
    const asked = served({
      "GET /api/nights": [],
      "GET /api/figures": [
        { ...figure, id: 1, name: "Warden", picture: "b".repeat(64), next: { name: "supports" } },
        { ...figure, id: 2, name: "Proved", picture: "b".repeat(64), next: { name: "log" } },
        { ...figure, id: 3, name: "Unseen", picture: null },
      ],
      "GET /api/printers": [{ id: 1, name: "heron", process: "resin" }],
      "GET /api/materials": [
        { id: 5, name: "marsh matte", process: "filament" },
        { id: 6, name: "lantern grey", process: "resin" },
      ],
      "POST /api/nights": night([]),
    });
    shown(<NightsPage />, "/nights");
    await userEvent.click(
      await screen.findByRole("button", { name: /all without a proved plan \(1\)/ }),
    );
    expect(screen.queryByLabelText(/Unseen/) === null).toBe(true);
    await userEvent.click(screen.getByLabelText(/heron/));
    await userEvent.type(screen.getByLabelText("Most risk, per cent"), "120");
    expect(screen.getByRole("alert").textContent).toMatch(/risks to 100 %/);
    await userEvent.clear(screen.getByLabelText("Most risk, per cent"));
    await userEvent.type(screen.getByLabelText("Most risk, per cent"), "10");
    await userEvent.click(screen.getByRole("button", { name: "Plan 1 figure on 1 machine" }));
    await waitFor(() =>
      expect(asked.find((a) => a.method === "POST")?.body).toEqual({
        figures: [1],
        machines: [{ printer_id: 1, material_id: 6 }],
        height_mm: null,
        most_risk: 0.1,
        most_hours: 10_000,
      }),
    );
  });
});
