// @vitest-environment happy-dom
import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it, vi } from "vitest";
import type { LayerPath, Machine, Schemas } from "../src/api/client";
import { Printing } from "../src/bench/Aside";
import { Stations, saidOf } from "../src/folds/log/Stations";
import { drawLayer } from "../src/folds/proof/draw";
import { ShelfPage } from "../src/shelf/ShelfPage";
import { refusal, run, served, shown } from "./page";

const offer = (change: Partial<Schemas["StationOffer"]> = {}): Schemas["StationOffer"] => ({
  station: "wash",
  steps: [
    ["first bath", 3],
    ["cleaner fluid", 3],
  ],
  said: "Brush corners.",
  state: null,
  busy: false,
  ...change,
});
const inside: Schemas["StationState"] = {
  station: "wash",
  state: "running",
  load: "plan 7",
  step: "cleaner fluid",
  done_s: 240,
  of_s: 360,
  loads: 4,
  lasts: 30,
  speed: 600,
};

describe("stations", () => {
  it("tell their programme, how far they are, and whose load is in the way", () => {
    expect(saidOf(offer())).toBe("first bath 3 min, cleaner fluid 3 min. Brush corners.");
    expect(saidOf(offer({ steps: [["the spool", 360]] }))).toContain("the spool 6 h.");
    expect(saidOf(offer({ state: inside }))).toBe("cleaner fluid: 0 h 04 of 0 h 06, running.");
    expect(saidOf(offer({ state: { ...inside, state: "done" } }))).toBe("done.");
    expect(saidOf(offer({ busy: true }))).toContain("Another load is in it.");
  });

  it("take nothing before it is printed, and the plan's load after", async () => {
    const asked = served({
      "GET /api/plans/7/stations": [offer()],
      "POST /api/plans/7/stations/wash": inside,
    });
    const view = shown(<Stations plan={7} printed={false} />);
    expect((await screen.findByRole("button", { name: "Wash" })).hasAttribute("disabled")).toBe(
      true,
    );
    view.again(<Stations plan={7} printed />);
    await userEvent.click(screen.getByRole("button", { name: "Wash" }));
    await waitFor(() =>
      expect(asked.find((a) => a.method === "POST")).toEqual({
        method: "POST",
        path: "/api/plans/7/stations/wash",
        body: { speed: 600 },
      }),
    );
  });
});

it("says what is wrong where a station does not answer", async () => {
  served({
    "GET /api/plans/7/stations": refusal(
      503,
      "machine-gone",
      "The simulated machine does not answer.",
    ),
  });
  shown(<Stations plan={7} printed />);
  expect((await screen.findByRole("alert")).textContent).toContain("does not answer");
});

describe("what is printing", () => {
  const state: Schemas["MachineState"] = {
    run: 5,
    state: "printing",
    layer: 210,
    layers: 1480,
    done_s: 100,
    of_s: 900,
    used: 1,
    unit: "ml",
    speed: 600,
    seen: null,
  };
  const row = (change: object) =>
    run({
      plan_id: 7,
      figure_name: "Heron courier",
      simulated: true,
      ends_at: "2030-01-01T12:30:00",
      ...change,
    });
  const told = (on: Schemas["MachineOfPlan"][], change = {}) =>
    shown(<Printing runs={[row(change)]} machines={on} />).container.textContent;

  it("is followed layer by layer, and said to be gone where it is", () => {
    expect(told([{ plan_id: 7, state }])).toContain("printing, layer 210 of 1,480");
    const seen = { loss: "good", layer: null, why: "" };
    expect(told([{ plan_id: 7, state: { ...state, state: "done", seen } }])).toContain(
      "done: log the outcome",
    );
    expect(told([{ plan_id: 7, state: null }])).toContain("does not answer");
    expect(told([])).toContain("its machine is gone");
    expect(told([{ plan_id: 8, state }], { simulated: false })).toContain("until 12:30");
  });
});

describe("how a printer's prints differ", () => {
  const printer = (scatter: Machine["scatter"], counted = 1): Machine =>
    ({
      id: 1,
      name: "heron",
      process: "resin",
      spec: { name: "heron", process: "resin", scatter: counted },
      film_worn: 0,
      scatter,
    }) as unknown as Machine;
  const read = { prints: 60, failed: 14, feared: 4.9, times: 1.913, low: 1.4, high: 2.6 };
  const table = (m: Machine) => ({
    "GET /api/printers": [m],
    "GET /api/materials": [],
    "GET /api/form/printers/resin": [],
    "PUT /api/printers": 1,
  });

  it("is told with its interval, and counted with when somebody takes it", async () => {
    const asked = served(table(printer(read)));
    shown(<ShelfPage />, "/shelf");
    expect(
      await screen.findByText(/of 60 logged prints 14 failed, where plans feared 4.9/),
    ).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: "Count with 1.91" }));
    await waitFor(() =>
      expect(asked.find((a) => a.method === "PUT")?.body).toEqual({
        name: "heron",
        process: "resin",
        scatter: 1.91,
      }),
    );
  });

  it("is left alone where it may well be so", async () => {
    served(table(printer(read, 1.8)));
    shown(<ShelfPage />, "/shelf");
    expect(await screen.findByText(/plans count with 1.8, which may well be so/)).toBeTruthy();
    expect(screen.queryByRole("button", { name: /Count with/ })).toBeNull();
  });
});

it("draws where lines begin and what strings only when asked", () => {
  const called: Record<string, ReturnType<typeof vi.fn>> = {};
  const of = (name: string) => (called[name] ??= vi.fn());
  const pen = new Proxy(called, { get: (_, name: string) => of(name) });
  const canvas = document.createElement("canvas");
  canvas.getContext = (() => pen) as unknown as typeof canvas.getContext;
  const path = {
    points: [
      [0, 0],
      [4, 0],
      [4, 3],
      [9, 9],
    ],
    kind: [1, 1, 0],
    begins: [0],
    strings: [2],
  } as unknown as LayerPath;
  const look = { upTo: 3, travels: false, below: null };
  drawLayer(canvas, path, { ...look, blemishes: false });
  expect(of("strokeRect")).not.toHaveBeenCalled();
  const lines = pen.lineTo.mock.calls.length;
  drawLayer(canvas, path, { ...look, blemishes: true });
  expect(of("strokeRect")).toHaveBeenCalledTimes(1);
  expect(pen.lineTo.mock.calls.length).toBe(2 * lines + 1);
});
