// @vitest-environment happy-dom
import { render, screen } from "@testing-library/react";
import { expect, it, vi } from "vitest";
import type { LayersBoard, PlanState, Profile, Trial } from "../src/api/client";
import { Batch } from "../src/folds/layers/Batch";
import { Profiles } from "../src/folds/layers/Profiles";
import { saidOf, type OnIt } from "../src/folds/log/OnMachine";
import { lostOf, WillItPrint } from "../src/folds/proof/WillItPrint";
import { served, shown } from "./page";

const on = (state: string, seen: OnIt["seen"] = null): OnIt => ({
  run: 3,
  state,
  layer: 12,
  layers: 90,
  done_s: 3600,
  of_s: 7200,
  used: 1.5,
  unit: "ml",
  speed: 600,
  seen,
});

it("says how far a machine is, and what lies on its plate", () => {
  expect(saidOf(on("printing"))).toBe("printing, layer 12 of 90, 1 h 00 of 2 h 00.");
  expect(saidOf(on("done", { loss: "good", layer: null, why: "" }))).toContain("whole");
  const lost = saidOf(on("done", { loss: "part lost", layer: 7, why: "The spear." }));
  expect(lost).toContain("part lost, from layer 7. The spear.");
});

const trial: Trial = {
  schema: "tenugui/trial@1",
  prints: 1000,
  seed: 1,
  whole: 950,
  marked: 10,
  part: 40,
  all: 10,
  error: 7,
  hands_min: 12,
  contact_mm2: 3,
  said: "950 of 1,000 came off whole.",
  causes: [
    {
      code: "pull",
      count: 40,
      loss: "part lost",
      layer: 30,
      x_mm: 1,
      y_mm: 2,
      z_mm: 3,
      share: 0.1,
      message: "A part comes off.",
      remedy: "More tips.",
      helped: { put: [[1, 2, 3]], whole: 970, hands_min: 1.4 },
      cost: 0.21,
    },
    {
      code: "mishap",
      count: 10,
      loss: "print lost",
      layer: 0,
      x_mm: 0,
      y_mm: 0,
      z_mm: 0,
      share: 0,
      message: "What no layer shows.",
      remedy: "Look after the first layers.",
      helped: null,
      cost: 0.12,
    },
  ],
  ribbon: [10, 0, 40],
  kept_sha: "a".repeat(64),
  scatter: 1,
  by_scatter: [[1, 0.95]],
  slower: { lift_mm_s: 0.5, whole: 985, longer_min: 42 },
};

it("answers first, then says why, and offers what was tried with the same draws", () => {
  const pick = vi.fn();
  served({ "GET /api/hazards": [] });
  shown(
    <WillItPrint
      plan={{ id: 7 } as PlanState}
      trial={trial}
      layers={100}
      height={0.1}
      picked={null}
      onPick={pick}
    />,
  );
  expect(screen.getByText("950 of 1,000 came off whole.")).toBeTruthy();
  expect(screen.getByRole("img", { name: /First failures/ }).getAttribute("aria-label")).toContain(
    "most, 40, near 8 mm",
  );
  expect(screen.getByRole("link", { name: "Put them" }).getAttribute("href")).toBe(
    "/plan/7/supports?put=1.000,2.000,3.000",
  );
  expect(screen.getByText("Look after the first layers.")).toBeTruthy();
  screen.getByRole("button", { name: /A part comes off/ }).click();
  expect(pick).toHaveBeenCalledWith(trial.causes[0]);
  expect(lostOf(trial)?.called).toBe("lost");
  expect(lostOf({ ...trial, kept_sha: null })).toBeNull();
});

it("tells several at once, and what each saves only where it saves", () => {
  const batch = [
    { count: 1, plates: 1, time_s: 3600 },
    { count: 2, plates: 1, time_s: 3600 },
    { count: 20, plates: 2, time_s: 72000 },
  ];
  const { container } = render(<Batch batch={batch} />);
  expect(container.textContent).toContain("2 in 1:00, 0:30 each");
  expect(container.textContent).toContain("20 in 20:00 on 2 plates.");
});

const profile: Profile = {
  at: [0, 0, 5],
  lean_deg: 30,
  window_mm: 1.5,
  draws_mm: 0.42,
  round: true,
  outline: [[0, -1, 0.5, 1]],
  stairs: [0.1, 0.2].map((h) => ({
    layer_height_mm: h,
    rows: [[0, h, -1.5, 0.2]],
    cusp_mm: h / 2,
    run_mm: h,
  })),
};

it("draws a window for every height, and looks where it is told", () => {
  const look = vi.fn();
  const option = vi.fn();
  const board = {
    choices: [{}, {}],
    places: [{ at: [1, 2, 3], called: "its top, 5 mm up" }],
  } as unknown as LayersBoard;
  render(
    <Profiles
      board={board}
      close={{ at: [1, 2, 3], asked: null, profile, problem: null, look }}
      shown={1}
      onOption={option}
    />,
  );
  const windows = screen.getAllByRole("button", { name: /mm: \d+ µm high/ });
  expect(windows.map((w) => w.getAttribute("aria-pressed"))).toEqual(["false", "true"]);
  windows[0].click();
  expect(option).toHaveBeenCalledWith(0);
  screen.getByRole("button", { name: /its top/ }).click();
  expect(look).toHaveBeenCalledWith([1, 2, 3]);
  expect(windows[0].querySelectorAll("rect")).toHaveLength(1);
});
