// @vitest-environment happy-dom
import { screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { describe, expect, it, vi } from "vitest";
import { Problem, type JobState } from "../src/api/client";
import type { Computed } from "../src/api/queries";
import { AtRates } from "../src/folds/AtRates";
import { RunningFigures } from "../src/folds/RunningFigures";
import { afterOf, foldOf, takenOf } from "../src/folds/types";
import { Waiting } from "../src/folds/Waiting";
import { fold, numbers, plan, shown } from "./page";

const told = (label: string) =>
  screen.getByText(label).parentElement?.querySelector("dd")?.textContent ?? "";

describe("the running figures", () => {
  it("say what will be there before anything is", () => {
    shown(<RunningFigures plan={plan()} />);
    expect(screen.getByText(/appear here as soon as/)).toBeDefined();
  });

  it("tell time, risk, steps and cost, and what the last decision changed of them", () => {
    shown(
      <RunningFigures
        plan={plan({
          numbers: numbers(),
          before: numbers({ time_s: 5 * 3600, risk: 0.3, cost: 1.0 }),
        })}
      />,
    );
    expect(told("Time")).toContain("4 h 00");
    expect(told("Time")).toContain("60 min less");
    expect(told("Risk of failing")).toContain("12 %");
    expect(told("Risk of failing")).toContain("18 points lower");
    expect(told("Steps")).toContain("43 µm");
    expect(told("Resin and waste")).toContain("0.25 dearer");
  });

  it("give no chance of failing where nothing holds the figure yet", () => {
    shown(<RunningFigures plan={plan({ numbers: numbers({ unheld: true, risk: 0.95 }) })} />);
    expect(told("Risk of failing")).toBe("not held yet");
  });

  it("say nothing of a change too small to be written", () => {
    shown(
      <RunningFigures
        plan={plan({ numbers: numbers(), before: numbers({ risk: 0.1201, cost: 1.2501 }) })}
      />,
    );
    expect(screen.queryByText(/points/)).toBeNull();
    expect(screen.queryByText(/cheaper|dearer/)).toBeNull();
  });

  it("measure an alternative against what is settled, or against what it is told to", () => {
    const settled = plan({ numbers: numbers() });
    const view = shown(<RunningFigures plan={settled} preview={numbers({ time_s: 3 * 3600 })} />);
    expect(told("Time")).toContain("60 min less");
    view.again(
      <RunningFigures
        plan={settled}
        preview={numbers({ time_s: 3 * 3600 })}
        against={numbers({ time_s: 2 * 3600 })}
      />,
    );
    expect(told("Time")).toContain("60 min more");
    view.again(
      <RunningFigures plan={settled} preview={numbers({ time_s: 3 * 3600 })} against={null} />,
    );
    expect(told("Time")).not.toMatch(/less|more/);
  });

  it("count filament in grams and resin in millilitres", () => {
    const folds = plan().folds.map((f) =>
      f.name === "size" ? fold("size", { choice: { process: "filament" } as never }) : f,
    );
    shown(<RunningFigures plan={plan({ folds, numbers: numbers() })} />);
    expect(told("Filament and waste")).toContain("34 g");
  });
});

describe("whose rates", () => {
  const at = (rates: unknown) =>
    plan({
      folds: plan().folds.map((f) =>
        f.name === "pose" ? fold("pose", { asked: { fold: "pose", wish: { rates } } as never }) : f,
      ),
    });

  it.each([
    [null, "an evening's hobby"],
    ["order", "work on order"],
    [{ minute: 1, hour: 1, lost: 1 }, "your own"],
  ])("of %j are named, and lead to where they are changed", (rates, name) => {
    shown(<AtRates plan={at(rates)} />);
    expect(screen.getByRole("link", { name })).toHaveAttribute("href", "/plan/7/pose?view=map");
  });
});

describe("folds by name", () => {
  it("are found, or it is a fault of ours", () => {
    expect(foldOf(plan(), "pose").name).toBe("pose");
    expect(() => foldOf(plan(), "varnish")).toThrow("there is no fold varnish");
  });

  it("tell which alternative is taken only while they are settled", () => {
    const choice = { option: 2 };
    expect(takenOf({ state: "settled", choice })).toBe(2);
    expect(takenOf({ state: "stale", choice })).toBeNull();
    expect(takenOf({ state: "open", choice: null })).toBeNull();
  });

  it("say where the work goes on", () => {
    const folds = [fold("pose", { next: "hollow" }), fold("log", { next: null })];
    expect(afterOf(plan({ folds }), "pose")).toBe("hollow");
    expect(afterOf(plan({ folds }), "log")).toBe("log");
  });
});

const computed = (change: Partial<Computed<string>> = {}): Computed<string> => ({
  key: "k",
  document: null,
  old: null,
  draft: false,
  job: null,
  problem: null,
  waiting: true,
  cancel: vi.fn(),
  again: vi.fn(),
  ...change,
});
const job = (change: Partial<JobState> = {}) =>
  ({ id: 1, state: "running", share: 0.42, doing: "weighing directions", ...change }) as JobState;

describe("waiting", () => {
  it("tells how far, what is being done, and can be stopped", async () => {
    const of = computed({ job: job() });
    shown(<Waiting of={of} what="Finding poses" />);
    expect(screen.getByRole("progressbar", { name: "Finding poses" })).toHaveAttribute(
      "aria-valuenow",
      "42",
    );
    expect(screen.getByText("weighing directions")).toBeDefined();
    await userEvent.click(screen.getByRole("button", { name: "Cancel" }));
    expect(of.cancel).toHaveBeenCalledOnce();
  });

  it("says when it waits for a worker, and that what is seen is stale", () => {
    shown(
      <Waiting
        of={computed({ job: job({ state: "waiting" }), old: "before" })}
        what="Finding poses"
      />,
    );
    expect(screen.getByText("waiting for a free worker")).toBeDefined();
    expect(screen.getByText(/what you see is stale/)).toBeDefined();
  });

  it("shows why it failed, what would help, and starts again only when pressed", async () => {
    const of = computed({
      draft: false,
      waiting: false,
      problem: new Problem("does-not-fit", "It is too large.", "Make it smaller.", "'heron'"),
    });
    shown(<Waiting of={of} what="Finding poses" />);
    expect(screen.getByRole("alert").textContent).toContain(
      "It is too large.'heron'Make it smaller.",
    );
    expect(of.again).not.toHaveBeenCalled();
    await userEvent.click(screen.getByRole("button", { name: "Try again" }));
    expect(of.again).toHaveBeenCalledOnce();
    expect(screen.getByRole("link", { name: "Change size, printer or copy" })).toHaveAttribute(
      "href",
      "/plan/7/size",
    );
  });

  it("offers another size only where another size would help", () => {
    const problem = new Problem("fault", "It stumbled.", "");
    shown(<Waiting of={computed({ waiting: false, problem })} what="Finding poses" />);
    expect(screen.queryByRole("link")).toBeNull();
  });

  it("is silent when all is there", () => {
    const { container } = shown(
      <Waiting of={computed({ waiting: false, document: "x" })} what="w" />,
    );
    expect(container.textContent).toBe("");
  });
});
