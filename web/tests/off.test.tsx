// @vitest-environment happy-dom
import { screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it } from "vitest";
import { spoken } from "../src/off/OffPage";
import { Ringing } from "../src/off/Ringing";
import { leftOf } from "../src/off/timers";
import { served, shown } from "./page";

describe("off the plate", () => {
  it("says minutes as people do", () => {
    expect([spoken(0.2), spoken(12.4), spoken(95)]).toEqual(["1 min", "12 min", "1.6 h"]);
  });

  it("says what is left of a timer, and since when it rings", () => {
    expect(leftOf({ left_s: 179.2 })).toBe("3:00");
    expect(leftOf({ left_s: 3725 })).toBe("1:02:05");
    expect(leftOf({ left_s: -61 })).toBe("rang 1:01 ago");
  });

  it("rings on every page until it is seen", async () => {
    const timer = {
      id: 4,
      plan_id: 7,
      figure_name: "Reed warden",
      step: "first bath",
      started_at: "2026-11-30T10:00:00",
      ends_at: "2026-11-30T10:03:00",
      left_s: -5,
    };
    const asked = served({
      "GET /api/timers": [timer, { ...timer, id: 5, step: "dry", left_s: 90 }],
    });
    shown(<Ringing />);
    expect((await screen.findByRole("alert")).textContent).toMatch(/Reed warden: first bath/);
    expect(screen.getAllByRole("listitem")).toHaveLength(1);
    await userEvent.click(screen.getByRole("button", { name: "Put the timer of first bath away" }));
    expect(asked.some((a) => a.method === "DELETE" && a.path === "/api/timers/4")).toBe(true);
  });
});
