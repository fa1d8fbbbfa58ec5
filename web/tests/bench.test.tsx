// @vitest-environment happy-dom
import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it, vi } from "vitest";
import { Hands } from "../src/able/Hands";
import type { FigureRow, Schemas } from "../src/api/client";
import type { MachinePage } from "../src/api/memory";
import { foundOf } from "../src/bench/Find";
import { Today, whenOf, wordsOf } from "../src/bench/Today";
import { Earlier } from "../src/folds/size/Earlier";
import { minutesOf } from "../src/off/timers";
import { Tray, trayOf } from "../src/off/Tray";
import { plan, served, shown } from "./page";

const row = (name: string, change: Partial<FigureRow> = {}): FigureRow => ({
  id: 1,
  name,
  file_name: `${name.toLowerCase()}.stl`,
  triangles: 100,
  created_at: "2026-12-01T10:00:00",
  stale: false,
  plans: 1,
  next: null,
  ...change,
});
const fold = (name: string) => ({ name }) as FigureRow["next"];

describe("figures on a full bench", () => {
  const rows = [
    row("Reed warden", { next: fold("log"), kit_name: "Gate" }),
    row("Toad abbot", { next: fold("layers"), stale: true }),
    row("Heron courier", { next: fold("size") }),
  ];
  it("are found by every word of a name, a file or a kit", () => {
    expect(foundOf(rows, "", "all")).toHaveLength(3);
    expect(foundOf(rows, "gate REED", "all").map((f) => f.name)).toEqual(["Reed warden"]);
    expect(foundOf(rows, "abbot.stl", "all").map((f) => f.name)).toEqual(["Toad abbot"]);
    expect(foundOf(rows, "reed abbot", "all")).toEqual([]);
  });
  it("are found by where they stand", () => {
    const names = (state: "open" | "ready" | "stale") =>
      foundOf(rows, "", state).map((f) => f.name);
    expect(names("open")).toEqual(["Toad abbot", "Heron courier"]);
    expect(names("ready")).toEqual(["Reed warden"]);
    expect(names("stale")).toEqual(["Toad abbot"]);
  });
});

describe("the day", () => {
  it("tells an hour of today and the day of others", () => {
    expect(whenOf("2026-12-01T18:30:00", "2026-12-01T10:00:00")).toContain("18:30");
    expect(whenOf("2026-12-03T18:30:00", "2026-12-01T10:00:00")).not.toContain("18:30");
  });
  it("says what wants hands, what ends and what is due", () => {
    const one = { at: "", of: "Warden", plan: null, sure: null };
    expect(wordsOf({ ...one, kind: "hands", what: "lift off", by: "Aki" })).toBe(
      "Warden: lift off, Aki",
    );
    expect(wordsOf({ ...one, kind: "dries", what: "primer dries", by: null })).toBe(
      "Warden: primer dries ends",
    );
    expect(wordsOf({ ...one, kind: "due", what: "0 of 2 made", by: null })).toBe("Warden is due");
  });
});

describe("a tray", () => {
  it("stands in the address, whatever is written there", () => {
    expect(trayOf("3-5-12")).toEqual([3, 5, 12]);
    expect([trayOf(null), trayOf(""), trayOf("x-2-0--1.5")]).toEqual([[], [], [2]]);
  });
  it("counts minutes since a timer was started by its own length and what is left", () => {
    const timer = {
      id: 1,
      plan_id: 1,
      figure_name: "",
      step: "",
      started_at: "2026-12-01T10:00:00",
      ends_at: "2026-12-01T10:03:00",
    };
    expect(minutesOf({ ...timer, left_s: 60 })).toBeCloseTo(2);
    expect(minutesOf({ ...timer, left_s: -120 })).toBeCloseTo(5);
  });
});

it("the day lies on the bench, and says when the week is stale", async () => {
  const day: Schemas["TodayDoc"] = {
    now: "2026-12-01T10:00:00",
    stale: true,
    rows: [
      { kind: "dries", at: "2026-12-01T10:30:00", what: "primer dries", of: "Abbot", plan: 4 },
      {
        kind: "due",
        at: "2026-12-02T20:00:00",
        what: "0 of 2 made",
        of: "For the gate",
        sure: 0.9,
      },
    ],
  };
  served({ "GET /api/today": day });
  shown(<Today />);
  expect(
    (await screen.findByRole("link", { name: /Abbot: primer dries ends/ })).getAttribute("href"),
  ).toBe("/off/4");
  expect(screen.getByText(/in time in 90/)).toBeTruthy();
  expect(screen.getByText(/Something has changed/)).toBeTruthy();
});

it("a tray offers what is proved in the same process, and lets one off it", async () => {
  served({
    "GET /api/figures": [
      row("Warden", { plan_id: 1, process: "resin", next: fold("log") }),
      row("Abbot", { id: 2, plan_id: 2, process: "resin", next: fold("log") }),
      row("Keeper", { id: 4, plan_id: 4, process: "resin", next: fold("log") }),
      row("Giant", { id: 3, plan_id: 3, process: "filament", next: fold("log") }),
    ],
  });
  const put = vi.fn();
  shown(<Tray plan={1} process="resin" tray={[2]} onTray={put} />);
  await userEvent.click(await screen.findByRole("button", { name: "Take Abbot off the tray" }));
  expect(put).toHaveBeenCalledWith([]);
  const more = screen.getByRole("combobox", { name: "Add a figure to the tray" });
  expect([...more.querySelectorAll("option")].map((o) => o.textContent)).toEqual([
    "another figure",
    "Keeper",
  ]);
  await userEvent.selectOptions(more, "4");
  expect(put).toHaveBeenLastCalledWith([2, 4]);
});

it("what hands take is told by kind of work, and taken over by one click", async () => {
  const asked = served({});
  const kind = { kind: "prime", steps: 3, times: 1.6, low: 1.1, high: 2.3 };
  const page = {
    printer: { id: 5 },
    material: { id: 6 },
    hands: {
      whole: { ...kind, kind: "all work by hand" },
      kinds: [kind],
      latest: [
        { id: 9, plan_id: 1, step: "prime", reckoned: 4, took: 7, noted_at: "2026-12-01T10:00:00" },
      ],
      set_to: 1,
      take: 1.6,
      taken_id: null,
    },
  } as unknown as MachinePage;
  shown(<Hands page={page} />);
  expect(screen.getByRole("row", { name: /prime/ }).textContent).toContain("1.60 times");
  await userEvent.click(screen.getByRole("button", { name: "Count with 1.60" }));
  await waitFor(() =>
    expect(asked.find((a) => a.method === "POST")).toEqual({
      method: "POST",
      path: "/api/printers/5/able/take",
      body: { material_id: 6, what: "hands_times" },
    }),
  );
  await userEvent.click(screen.getByText("the latest"));
  await userEvent.click(screen.getByRole("button", { name: "Take back prime" }));
  await waitFor(() => expect(asked.some((a) => a.path === "/api/minutes/9")).toBe(true));
});

it("an earlier version is offered by name, and asked for once", async () => {
  const asked = served({
    "GET /api/plans/7/earlier": [
      { plan_id: 3, figure_name: "Stone", number: 1, settled: ["Size", "Pose"] },
    ],
    "POST /api/plans/7/earlier": 12,
  });
  vi.stubGlobal(
    "EventSource",
    class {
      addEventListener = () => undefined;
      close = () => undefined;
    },
  );
  shown(<Earlier plan={plan()} />);
  await userEvent.click(await screen.findByText(/A better version/));
  await userEvent.click(screen.getByRole("button", { name: /Size, marks, pose/ }));
  await waitFor(() => expect(asked.find((a) => a.method === "POST")?.body).toEqual({ plan: 3 }));
  expect(await screen.findByText("waiting for a free worker")).toBeTruthy();
});
