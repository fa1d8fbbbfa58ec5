// @vitest-environment happy-dom
import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { beforeEach, describe, expect, it } from "vitest";
import type { OnePlate, Whole } from "../src/plates/api";
import { PlatePage } from "../src/plates/PlatePage";
import { PlatesList } from "../src/plates/PlatesList";
import { betweenLines } from "../src/plates/Said";
import { served, shown, type Asked } from "./page";

const square = (x: number, y: number): [number, number][] => [
  [x, y],
  [x + 20, y],
  [x + 20, y + 20],
  [x, y + 20],
];

const item = (copy: number, x: number) => ({
  plan: "7",
  copy,
  x_mm: x,
  y_mm: 10,
  turn_deg: 0,
  footprint: square(x, 10),
  more: [],
});

const plate = (change: Partial<OnePlate> = {}): OnePlate => ({
  number: 0,
  doc: {
    items: [item(1, 10), item(2, 40)],
    time_s: 7200,
    material_ml: 30,
    material_g: 33,
    peak_pull_n: 12,
    risk: 0.08,
    good: 1.9,
    enough: { vat: true, stock: true },
  },
  pinned: [false, false],
  wrong: [],
  spent: {
    material: 1,
    machine: 0.6,
    power: 0.1,
    hands: 4,
    film: 0.2,
    stuff: 0.1,
    lost: 0.5,
    total: 6.5,
    each: 3.25,
  },
  ready: ["gloves", "a funnel"],
  looks: [{ at_s: 600, z_mm: 1, said: "the first layers stick", chance: 0 }],
  between: { crossings: 0, metres: 0, hairs_min: 0, tight: [], cutter_mm: 6 },
  in_turn: null,
  vat_ml: 500,
  left_g: 20,
  ...change,
});

const whole = (change: Partial<Whole> = {}): Whole => ({
  id: 3,
  name: "Gate",
  version: 5,
  printer_id: 1,
  printer_name: "heron",
  process: "resin",
  build_mm: [200, 120, 240],
  gap_mm: 2,
  rates: "evening",
  in_turn: false,
  pieces: [
    {
      plan_id: 7,
      copies: 2,
      figure_name: "Reed warden",
      plan_number: 1,
      state: "ready",
      said: "",
      job_id: null,
      accepted: true,
      material: "grey",
      layer_mm: 0.05,
      footprint: [square(0, 0)],
    },
  ],
  free: [],
  plates: [plate()],
  unlaid: 0,
  left: [],
  hours_per_good_piece: 1.05,
  curve: [
    [1, 2.1],
    [2, 1.05],
  ],
  ticked: ["gloves"],
  can_undo: "laid out",
  can_redo: null,
  batches: [],
  ...change,
});

const bodyOf = (asked: Asked[], method: string, path: string) =>
  asked.filter((a) => a.method === method && a.path === path).at(-1)?.body;

describe("a plate", () => {
  let asked: Asked[];
  const open = (now: Whole = whole()) => {
    asked = served({
      "GET /api/plates/3": now,
      "GET /api/plates/offers/1": [
        { plan_id: 7, figure_name: "Reed warden", plan_number: 1 },
        { plan_id: 9, figure_name: "Toad abbot", plan_number: 2 },
      ],
      "PUT /api/plates/3/laid": { ...now, version: 6 },
      "PUT /api/plates/3/ticks": { ...now, version: 6, ticked: ["gloves", "a funnel"] },
      "PUT /api/plates/3": { ...now, version: 6 },
      "POST /api/plates/3/lay": { ...now, version: 6 },
      "POST /api/plates/3/undo": { ...now, version: 6 },
      "POST /api/plates/3/1/start": 4,
    });
    window.history.replaceState(null, "", "/plate/3");
    return shownAt(<PlatePage />);
  };

  it("tells its pieces, what it takes, costs and wants", async () => {
    open();
    expect(await screen.findByText(/2 pieces on one plate, 2 h 00/)).toBeTruthy();
    expect(screen.getByText(/8 % that not all 2 come off whole/)).toBeTruthy();
    expect(screen.getByText("3.25 coins")).toBeTruthy();
    const bar = screen.getByRole("img", { name: /by hand 4.00/ });
    const wide = [...bar.querySelectorAll("rect")].map((r) => Number(r.getAttribute("width")));
    expect(wide.reduce((a, b) => a + b, 0)).toBeCloseTo(400);
    expect(
      screen.getByText(/2 of Reed warden at once: 1.05 h a good piece, 2.10 h one by one/),
    ).toBeTruthy();
    expect(screen.getByText("There is not enough material left for it.")).toBeTruthy();
    expect(screen.getByRole("checkbox", { name: "gloves" })).toHaveProperty("checked", true);
    expect(screen.getByText(/33 g of material, and only 20 g are left/)).toBeTruthy();
  });

  it("moves, turns and pins the chosen piece by keys, from the version that was seen", async () => {
    open();
    await userEvent.click(
      await screen.findByRole("button", { name: "Choose piece 2, Reed warden" }),
    );
    await userEvent.keyboard("{ArrowRight}");
    await waitFor(() => expect(bodyOf(asked, "PUT", "/api/plates/3/laid")).toBeTruthy());
    expect(bodyOf(asked, "PUT", "/api/plates/3/laid")).toEqual({
      version: 5,
      moved: [{ plan_id: 7, nth: 2, plate: 0, x_mm: 41, y_mm: 10, turn_deg: 0, pinned: true }],
    });
    await userEvent.keyboard("p");
    await waitFor(() =>
      expect(bodyOf(asked, "PUT", "/api/plates/3/laid")).toMatchObject({
        moved: [{ x_mm: 40, pinned: true }],
      }),
    );
    await userEvent.keyboard("r");
    await waitFor(() =>
      expect(bodyOf(asked, "PUT", "/api/plates/3/laid")).toMatchObject({
        moved: [{ turn_deg: 22.5 }],
      }),
    );
    await userEvent.keyboard("{Escape}");
    expect(screen.getByText("choose one, or drag it")).toBeTruthy();
  });

  it("says what is wrong, and is not begun", async () => {
    const wrong = { kind: "near", items: [0, 1], said: "They are 1.2 mm nearer than the gap." };
    open(whole({ plates: [plate({ wrong: [wrong] })] }));
    expect(await screen.findByText(wrong.said)).toBeTruthy();
    expect(screen.getByRole("button", { name: "Begin it now" })).toHaveProperty("disabled", true);
    expect(screen.queryByRole("link", { name: "3MF" })).toBeNull();
  });

  it("changes counts and lines, and keeps all else as it was", async () => {
    open();
    await userEvent.click(await screen.findByRole("button", { name: "one more Reed warden" }));
    await waitFor(() => expect(bodyOf(asked, "PUT", "/api/plates/3")).toBeTruthy());
    expect(bodyOf(asked, "PUT", "/api/plates/3")).toMatchObject({
      version: 5,
      gap_mm: 2,
      pieces: [{ plan_id: 7, copies: 3 }],
    });
    const gap = screen.getByLabelText("Gap in mm");
    await userEvent.clear(gap);
    await userEvent.type(gap, "3,5{Enter}");
    await waitFor(() =>
      expect(bodyOf(asked, "PUT", "/api/plates/3")).toMatchObject({ gap_mm: 3.5 }),
    );
    await userEvent.clear(gap);
    await userEvent.type(gap, "900{Enter}");
    expect(gap).toHaveProperty("value", "2");
  });

  it("ticks at once, and begins with a run for each piece", async () => {
    open();
    const tick = await screen.findByRole("checkbox", { name: "a funnel" });
    fireEvent.click(tick);
    expect(tick).toHaveProperty("checked", true);
    await waitFor(() =>
      expect(bodyOf(asked, "PUT", "/api/plates/3/ticks")).toEqual({
        version: 5,
        ticked: ["gloves", "a funnel"],
      }),
    );
    await userEvent.click(screen.getByRole("button", { name: "Begin it now" }));
    await waitFor(() => expect(asked.some((a) => a.path === "/api/plates/3/1/start")).toBe(true));
  });

  it("waits for what is not ready, and tells an outcome a piece", async () => {
    const [ready] = whole().pieces;
    const open_ = {
      ...ready,
      state: "open" as const,
      said: "It is not proved yet.",
      accepted: false,
    };
    const runs = [
      { id: 11, plan_id: 7, figure_name: "Reed warden", result: "good" },
      { id: 12, plan_id: 7, figure_name: "Reed warden", result: null },
    ];
    open(
      whole({
        pieces: [open_],
        plates: [],
        unlaid: 2,
        batches: [{ id: 1, number: 1, planned_s: 7200, started_at: "2026-11-30T18:00:00", runs }],
      }),
    );
    expect(await screen.findByText(/It is not proved yet/)).toBeTruthy();
    expect(screen.getByRole("button", { name: "Lay it out" })).toHaveProperty("disabled", true);
    expect(screen.getByText(/1 of 2 came off whole, 1 not looked at/)).toBeTruthy();
    const choice = screen.getByRole("radiogroup", { name: "What became of run 12" });
    await userEvent.click(within(choice).getByRole("radio", { name: "lost" }));
    await waitFor(() =>
      expect(bodyOf(asked, "PUT", "/api/runs/12/outcome")).toEqual({
        result: "print lost",
        note: "",
      }),
    );
  });
});

/** At an address that is no plan's. */
function shownAt(what: React.ReactNode) {
  return shown(what, "/plate/3");
}

describe("the list of plates", () => {
  let asked: Asked[];
  beforeEach(() => {
    asked = served({
      "GET /api/plates": [
        {
          id: 3,
          name: "Gate",
          printer_name: "heron",
          process: "resin",
          pieces: 12,
          plates: 2,
          begun: 1,
          created_at: "2026-11-30T10:00:00",
        },
      ],
      "GET /api/printers": [{ id: 1, name: "heron", process: "resin", spec: {} }],
      "GET /api/plates/offers/1": [{ plan_id: 7, figure_name: "Reed warden", plan_number: 1 }],
      "POST /api/plates": 8,
    });
  });

  it("makes one of these, so many, and a count ends no form", async () => {
    shown(<PlatesList />, "/plates");
    expect(await screen.findByText("12 pieces on heron, 2 plates")).toBeTruthy();
    await userEvent.click(await screen.findByRole("checkbox", { name: /Reed warden/ }));
    const many = screen.getByLabelText("how many Reed warden");
    await userEvent.clear(many);
    await userEvent.type(many, "6{Enter}");
    expect(asked.some((a) => a.method === "POST")).toBe(false);
    await userEvent.click(screen.getByRole("button", { name: "Lay 6 pieces on a plate" }));
    await waitFor(() => expect(bodyOf(asked, "POST", "/api/plates")).toBeTruthy());
    expect(bodyOf(asked, "POST", "/api/plates")).toEqual({
      name: "Reed warden",
      printer_id: 1,
      pieces: [{ plan_id: 7, copies: 6 }],
      gap_mm: 2,
      rates: "evening",
    });
    expect(window.location.pathname).toBe("/plate/8");
  });
});

describe("what only a plate knows", () => {
  const items = (n: number) => ({ items: Array.from({ length: n }) }) as never;
  const between = { crossings: 0, metres: 0, hairs_min: 0, tight: [], cutter_mm: 6 };
  it("is silent where there is nothing", () => {
    expect(betweenLines({ between, doc: items(2) })).toEqual([]);
  });
  it("tells crossings with their hairs, and pairs that cutters do not reach between", () => {
    const crossed = { ...between, crossings: 1200, metres: 36, hairs_min: 3 };
    expect(betweenLines({ between: crossed, doc: items(2) })).toEqual([
      "The nozzle crosses between pieces 1,200 times, 36 m: 3 min of hairs (prior).",
    ]);
    const turn = { can: false, why: "Piece 1 is 80 mm tall; the rail passes at 30." };
    expect(betweenLines({ between: crossed, doc: items(2), in_turn: turn })[1]).toBe(
      "One after the other they would not cross. Piece 1 is 80 mm tall; the rail passes at 30.",
    );
    const tight = { ...between, tight: [[0, 2]] as [number, number][] };
    expect(betweenLines({ between: tight, doc: items(4) })[0]).toMatch(
      /^Between 1 and 3 cutters find/,
    );
    expect(betweenLines({ between: tight, doc: items(2) })[0]).toMatch(
      /^Between its pieces cutters/,
    );
  });
});
