// @vitest-environment happy-dom
import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import type { Week } from "../src/week/api";
import { WeekPage } from "../src/week/WeekPage";
import { served, shown, type Asked } from "./page";

const house = {
  people: [{ name: "Aki", hours: [{ days: [0, 1], begin: "18:00", end: "22:00" }] }],
  stations: [{ name: "wash", kind: "wash" as const, capacity: 1 }],
  machines: [],
  quiet: [{ days: [0, 1, 2, 3, 4, 5, 6], begin: "22:30", end: "06:30" }],
  days: 7,
  change_min: 15,
  zone: "",
};

const run = (job: string, day: string) => ({
  job,
  machine: "heron",
  start: `${day}T18:05`,
  end: `${day}T21:05`,
  end_95: `${day}T21:20`,
  done: `${day}T22:00`,
  attend: [
    { what: "start", at: `${day}T18:00`, by: "Aki", minutes: 5 },
    { what: "lift off", at: `${day}T21:10`, by: "Aki", minutes: 5 },
  ],
  alone: [{ what: "first bath", at: `${day}T21:15`, by: null, minutes: 6 }],
});

const order = (id: number, name: string, sure: number) => ({
  id,
  name,
  plan_id: 7,
  plate_id: null,
  figure_name: "Reed warden",
  plate_name: null,
  copies: 2,
  made: 1,
  due: "2026-12-03T20:00:00",
  chance: 0.9,
  goes: "clean" as const,
  jobs: [{ name: `${name} 2 (${id})`, nth: 2 }],
  pinned: [],
  ready: true,
  said: "",
  sure,
});

const week = (change: Partial<Week> = {}): Week => ({
  house,
  version: 4,
  orders: [order(1, "Gate", 0.97), order(2, "Ferry", 0.7)],
  machines: ["heron", "kestrel"],
  begin: "2026-11-30T17:00:00",
  end: "2026-12-07T00:00:00",
  now: "2026-11-30T17:02:00",
  awake: [["2026-11-30T18:00:00", "2026-11-30T22:00:00"]],
  quiet: [["2026-11-30T22:30:00", "2026-12-01T06:30:00"]],
  running: [],
  week: {
    schema: "tenugui/week@1",
    runs: [run("Gate 2 (1)", "2026-11-30"), run("Ferry 2 (2)", "2026-12-01")],
    dates: [
      { job: "Gate 2 (1)", due: "2026-12-03T20:00", chance: 0.97 },
      { job: "Ferry 2 (2)", due: "2026-12-03T20:00", chance: 0.7 },
    ],
    unplaced: [],
    optimal: true,
    said: [],
    gap: 0,
  },
  latest: [] as [string, string][],
  better: { first: "Ferry 2 (2)", dates: [["Ferry 2 (2)", 0.7, 0.94] as [string, number, number]] },
  stations: { "first bath": "wash" },
  stale: false,
  nothing: "",
  job_id: null,
  problem: null,
  feed: null,
  ...change,
});

const bodyOf = (asked: Asked[], method: string, path: string) =>
  asked.filter((a) => a.method === method && a.path === path).at(-1)?.body;

function open(now: Week = week(), at = "/week"): Asked[] {
  const asked = served({
    "GET /api/week": now,
    "POST /api/week/weave": { ...now, stale: false },
    "GET /api/plates": [],
    "GET /api/figures": [
      { id: 1, name: "Toad abbot", plan_id: 9, next: { name: "log" }, process: "resin" },
      { id: 2, name: "Lantern", plan_id: 10, next: { name: "pose" }, process: "resin" },
    ],
    "POST /api/week/orders": 5,
    "POST /api/week/feed": "/api/week/calendar/secret.ics",
  });
  shown(<WeekPage />, at);
  return asked;
}

describe("the page of the week", () => {
  it("tells the weakest date, what wants hands next, and the move that would help", async () => {
    const asked = open();
    expect(await screen.findByText(/Ferry is ready in 70 %/)).toBeTruthy();
    expect(screen.getByText(/before all others:/).textContent).toContain("70 % to 94 %");
    const hands = screen.getAllByRole("listitem").map((li) => li.textContent);
    expect(hands[0]).toContain("18:00 start: Gate 2");
    await userEvent.click(screen.getByRole("button", { name: "Weave it so" }));
    await waitFor(() =>
      expect(bodyOf(asked, "PUT", "/api/week/orders/2/pin")).toEqual({ nth: 2, first: true }),
    );
    expect(asked.some((a) => a.path === "/api/week/weave")).toBe(false);
  });

  it("weaves itself anew, once, where something has changed", async () => {
    const asked = open(week({ stale: true }));
    await waitFor(() => expect(asked.filter((a) => a.path === "/api/week/weave")).toHaveLength(1));
    await screen.findByText(/Ferry is ready in 70 %/);
    expect(asked.filter((a) => a.path === "/api/week/weave")).toHaveLength(1);
  });

  it("knots loosen below what is wanted, and names have no numbers in them", async () => {
    open();
    const band = await screen.findByRole("group", { name: "The week: 2 runs on 2 machines" });
    expect(
      within(band)
        .getByText(/ready in 97 % of weeks/)
        .getAttribute("fill"),
    ).toBe("var(--moss)");
    expect(
      within(band)
        .getByText(/ready in 70 % of weeks/)
        .getAttribute("fill"),
    ).toBe("var(--persimmon)");
    const patches = [...band.querySelectorAll("[data-job]")];
    expect(patches.map((p) => p.getAttribute("fill"))).toEqual(["url(#wk-hangs)", "url(#wk-weak)"]);
    expect(band.textContent).not.toContain("(1)");
  });

  it("orders what was accepted by a date, and nothing else is offered", async () => {
    const asked = open(week(), "/week?part=orders&new=1");
    await userEvent.click(await screen.findByRole("combobox", { name: "Of which" }));
    expect(screen.queryByRole("option", { name: "Lantern" })).toBeNull();
    await userEvent.click(await screen.findByRole("option", { name: "Toad abbot" }));
    const many = screen.getByLabelText("How many");
    await userEvent.clear(many);
    await userEvent.type(many, "3");
    await userEvent.click(screen.getByRole("button", { name: /^Order it/ }));
    await waitFor(() => expect(bodyOf(asked, "POST", "/api/week/orders")).toBeTruthy());
    expect(bodyOf(asked, "POST", "/api/week/orders")).toEqual({
      name: "Toad abbot",
      plan_id: 9,
      plate_id: null,
      copies: 3,
      due: null,
      chance: 0.9,
      goes: "primed",
    });
  });

  it("keeps who is there from the version that was seen, and no day less than one", async () => {
    const asked = open(week(), "/week?part=house");
    const monday = await screen.findByRole("button", { name: "Mo, Aki" });
    await userEvent.click(monday);
    await userEvent.click(screen.getByRole("button", { name: "Tu, Aki" }));
    expect(screen.getByRole("button", { name: "Tu, Aki" }).getAttribute("aria-pressed")).toBe(
      "true",
    );
    await userEvent.click(screen.getByRole("button", { name: "somebody else" }));
    await userEvent.click(screen.getByRole("button", { name: "Keep these hours" }));
    await waitFor(() => expect(bodyOf(asked, "PUT", "/api/week/house")).toBeTruthy());
    expect(bodyOf(asked, "PUT", "/api/week/house")).toMatchObject({
      version: 4,
      house: {
        people: [
          { name: "Aki", hours: [{ days: [1], begin: "18:00", end: "22:00" }] },
          { name: "person 2" },
        ],
        days: 7,
      },
    });
  });

  it("says why there is no week, and what finds no place", async () => {
    open(
      week({
        nothing: "Nothing is ordered: say what is wanted by when.",
        week: null,
        orders: [],
        latest: [],
        better: null,
      }),
    );
    expect(await screen.findByText(/Nothing is ordered/)).toBeTruthy();
    expect(screen.getByRole("button", { name: "Weave it anew" })).toHaveProperty("disabled", true);
    expect(screen.getByText("Nothing wants hands.")).toBeTruthy();
  });

  it("opens and closes a private address of the calendar", async () => {
    const asked = open(week({ feed: "/api/week/calendar/secret.ics" }), "/week?part=calendar");
    expect(await screen.findByText(/\/api\/week\/calendar\/secret\.ics$/)).toBeTruthy();
    await userEvent.click(screen.getByRole("button", { name: "Close it" }));
    await waitFor(() =>
      expect(asked.some((a) => a.method === "DELETE" && a.path === "/api/week/feed")).toBe(true),
    );
  });
});
