// @vitest-environment happy-dom
import { screen, within } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import type { Schemas } from "../src/api/client";
import { Evidence } from "../src/folds/Why";
import { PRIORS, priorsOf } from "../src/priors/table";
import { shown } from "./page";

type Doc = Schemas["WhyDoc"];
const part = (name: string, change: object = {}) => ({
  part: name,
  amount: 12,
  unit: "min",
  rate: 0.15,
  coins: 1.8,
  law: "Every tip is cut off.",
  priors: [{ name: "to cut a tip", value: 0.06, unit: "min" }],
  ...change,
});
const doc = (change: Partial<Doc> = {}): Doc => ({
  shown: 0,
  recommended: 0,
  cheapest: 0,
  other: 1,
  against: "8 minutes less by hand",
  alike: false,
  near: true,
  over: 0.2,
  parts: [part("hands"), part("material", { unit: "coins", rate: null, coins: 0.4, amount: 0.4 })],
  turns: [{ rate: "minute", now: 0.15, then: 0.05, row: 1 }],
  bounds: [{ part: "hands", now: 12, times: 2, row: 1 }],
  learnt: [],
  ...change,
});
const names = ["Leaning", "Upright"];

describe("why a row is recommended", () => {
  it("tells parts, priors by name, and what would change it", () => {
    const { container } = shown(<Evidence doc={doc()} names={names} />);
    expect(container.textContent).toContain(
      "Leaning is recommended: beside Upright it takes 8 minutes",
    );
    const table = within(screen.getByRole("table"));
    expect(table.getByRole("row", { name: /by hand/ }).textContent).toContain(
      "12.0 min at 0.15 = 1.80 coins",
    );
    expect(table.getByRole("row", { name: /by hand/ }).textContent).toContain(
      "to cut a tip 0.06 min",
    );
    const changes = screen.getByRole("group", { name: "What would change it" }).textContent;
    expect(changes).toContain(
      "Upright, if a minute of yours counted no more than 0.05 coins instead of 0.15",
    );
    expect(changes).toContain("24.0 min or more: 2.00 times what");
    expect(container.textContent).not.toContain("nobody could tell");
  });

  it("says of another row what it would have to take", () => {
    const bounds = [{ part: "risk", now: 0.2, times: 0.25, row: 1 }];
    const { container } = shown(
      <Evidence
        doc={doc({
          shown: 1,
          other: 0,
          alike: true,
          cheapest: 1,
          turns: [],
          bounds: [{ ...bounds[0], row: 0 }],
        })}
        names={names}
      />,
    );
    expect(container.textContent).toContain("Upright is not recommended");
    expect(container.textContent).toContain("nobody could tell the two apart");
    expect(container.textContent).toContain(
      "Upright is 0.20 coins cheaper, which is less than what is not known",
    );
  });

  it("says so where nothing would, and links to what prints have taught", () => {
    shown(
      <Evidence
        doc={doc({
          turns: [],
          bounds: [],
          learnt: [{ name: "Prints differ", value: 1.2, printer_id: 3 }],
        })}
        names={names}
      />,
    );
    expect(screen.getByText(/Nothing within 64 times/)).toBeTruthy();
    expect(screen.getByText(/Prints differ 1.20/)).toBeTruthy();
    expect(
      screen.getByRole("link", { name: "What this machine can do" }).getAttribute("href"),
    ).toBe("/able/3");
  });
});

describe("the page of priors", () => {
  it("reads the printed table, all of its rows", () => {
    expect(PRIORS.length).toBeGreaterThan(200);
    expect(PRIORS.every((p) => p.room && p.name && p.value && p.sense)).toBe(true);
    const [one] = priorsOf(
      "| room | prior | value | what it says |\n|---|---|---|---|\n| a/b | `C` | `1 \\| 2` | so. |",
    );
    expect(one).toEqual({ room: "a/b", name: "C", value: "1 | 2", sense: "so." });
  });
});
