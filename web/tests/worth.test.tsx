// @vitest-environment happy-dom
import { screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { describe, expect, it, vi } from "vitest";
import type { Schemas } from "../src/api/client";
import { fully, Rates, type Wish } from "../src/folds/pose/Rates";
import { WorthBar, worthColumn, worthSaid } from "../src/patterns/WorthBar";
import { shown } from "./page";

type Worth = Schemas["WorthDoc"];
const worth = (change: Partial<Worth> = {}): Worth => ({
  hands_min: 20,
  machine_h: 4,
  material: 1,
  risk: 0.1,
  hands: 3,
  machine: 2,
  loss: 0.5,
  total: 6.5,
  unsure: 1.5,
  harm: 0.1,
  ...change,
});
const widths = (bar: Element) =>
  [...bar.querySelectorAll("rect")].map((r) => Number(r.getAttribute("width")));

describe("the bar of worth", () => {
  it("draws its four parts end to end, to the scale of the dearest", () => {
    shown(<WorthBar worth={worth()} most={13} />);
    const bar = screen.getByRole("img");
    [3, 2, 1, 0.5].forEach((v, i) => expect(widths(bar)[i]).toBeCloseTo((v / 13) * 86, 6));
    const starts = [...bar.querySelectorAll("rect")].map((r) => Number(r.getAttribute("x")));
    widths(bar).reduce<number>((x, w, i) => {
      expect(starts[i]).toBeCloseTo(x, 6);
      return x + w;
    }, 0);
  });

  it("says in words what it draws, the uncertainty too", () => {
    expect(worthSaid(worth())).toBe(
      "20 min by hand 3.00, 4.0 h of the machine 2.00, material 1.00, risk 10 % 0.50: 6.50 coins, give or take 1.50",
    );
    shown(<WorthBar worth={worth()} most={6.5} />);
    expect(screen.getByRole("img").getAttribute("aria-label")).toContain("give or take 1.50");
  });

  it("keeps its whisker on the bar, however unsure", () => {
    shown(<WorthBar worth={worth({ unsure: 100 })} most={6.5} />);
    const line = screen.getByRole("img").querySelector("line");
    expect([line?.getAttribute("x1"), line?.getAttribute("x2")]).toEqual(["0", "86"]);
  });

  it("is not broken by a board on which nothing costs anything", () => {
    const free = worth({ hands: 0, machine: 0, material: 0, loss: 0, total: 0, unsure: 0 });
    shown(<WorthBar worth={free} most={0} />);
    expect(widths(screen.getByRole("img"))).toEqual([0, 0, 0, 0]);
  });

  it("is a column to the scale of the dearest row, and empty where nothing is told", () => {
    const rows = [{ w: worth() }, { w: worth({ total: 13 }) }, { w: null }];
    const column = worthColumn((r: { w: Worth | null }) => r.w, rows);
    shown(
      <>
        {rows.map((r, i) => (
          <div key={i}>{column.cell(r, i)}</div>
        ))}
      </>,
    );
    const [first] = screen.getAllByRole("img");
    expect(widths(first)[0]).toBeCloseTo((3 / 13) * 86, 6);
    expect(screen.getAllByRole("img")).toHaveLength(2);
  });
});

const held: Schemas["WishDoc"] = {
  rates: { minute: 0.15, hour: 0.3, lost: 1.5 },
  hours: null,
  clean: false,
  free: false,
};

function Held({ told, first = {} }: { told: (w: Wish) => void; first?: Wish }) {
  const [wish, setWish] = useState<Wish>(first);
  return (
    <Rates
      wish={wish}
      held={held}
      unmet={[]}
      onWish={(w) => {
        setWish(w);
        told(w);
      }}
    />
  );
}

describe("rates and wishes", () => {
  it("starts at an evening's hobby and takes a preset by its name", async () => {
    const told = vi.fn();
    shown(<Held told={told} />);
    expect(screen.getByRole("radio", { name: "An evening's hobby" })).toBeChecked();
    await userEvent.click(screen.getByRole("radio", { name: "Work on order" }));
    expect(told).toHaveBeenLastCalledWith({ rates: "order" });
  });

  it("turns what holds into own rates at the first press on a thumb, and keeps the others", async () => {
    const told = vi.fn();
    shown(<Held told={told} />);
    screen.getByRole("slider", { name: "A minute of mine" }).focus();
    await userEvent.keyboard("{ArrowRight}");
    const asked = told.mock.lastCall?.[0] as Wish;
    expect(asked.rates).toMatchObject({ hour: 0.3, lost: 1.5 });
    expect((asked.rates as { minute: number }).minute).toBeCloseTo(0.2, 9);
    expect(screen.getByRole("radio", { name: "own rates" })).toBeChecked();
  });

  it("adds hard wishes and takes them back", async () => {
    const told = vi.fn();
    shown(<Held told={told} />);
    const clean = screen.getByRole("checkbox", { name: "No support on what is shown" });
    await userEvent.click(clean);
    await userEvent.click(screen.getByRole("checkbox", { name: "No supports at all" }));
    expect(told).toHaveBeenLastCalledWith({ clean: true, free: true });
    await userEvent.click(clean);
    expect(told).toHaveBeenLastCalledWith({ clean: false, free: true });
  });

  it.each([
    ["6", 6],
    ["2,5", 2.5],
    ["0", null],
    ["-3", null],
    ["soon", null],
    ["1001", null],
  ])("hears hours typed as %s", async (typed, hours) => {
    const told = vi.fn();
    shown(<Held told={told} />);
    await userEvent.type(screen.getByLabelText("Printed within, hours"), typed);
    expect((told.mock.lastCall?.[0] as Wish).hours).toBe(hours);
  });

  it("says which wish nothing meets", () => {
    shown(
      <Rates
        wish={{ clean: true, hours: 1 }}
        held={held}
        unmet={["clean", "hours"]}
        onWish={vi.fn()}
      />,
    );
    expect(screen.getByText("no way does; ranked without it")).toBeDefined();
    expect(screen.getByText("no way is; ranked without it")).toBeDefined();
  });

  it("completes a wish for the server", () => {
    expect(fully({ hours: 4 })).toEqual({ clean: false, free: false, hours: 4 });
    expect(fully({ clean: true })).toEqual({ clean: true, free: false });
  });
});
