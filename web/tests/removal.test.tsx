// @vitest-environment happy-dom
import { screen } from "@testing-library/react";
import { expect, it, vi } from "vitest";
import { groupLine, Removal } from "../src/folds/proof/Removal";
import { shown } from "./page";

const group = { side: "left" as const, towards: [1, 0, 0] as [number, number, number] };
const stout = { ...group, tips: [3, 1], delicate: false, minutes: 4.4 };
const thin = { ...group, side: "below" as const, tips: [2], delicate: true, minutes: 0.3 };

it("says from where, how and how long", () => {
  expect(groupLine(stout)).toBe("2 tips from its left: snap or cut, outermost first; 4 min");
  expect(groupLine(thin)).toMatch(/^one tip from below: cut, do not snap.*under a minute$/);
});

it("lists groups in their order and what no cutter reaches, and shows one", () => {
  const onPick = vi.fn();
  const data = { groups: [thin, stout], unreached: [4, 5], locked: [5], when: "Before curing." };
  shown(<Removal plan={7} data={data} picked={1} onPick={onPick} />);
  const buttons = screen.getAllByRole("button");
  expect(buttons.map((b) => b.getAttribute("aria-pressed"))).toEqual(["false", "true"]);
  expect(screen.getByText(/does not reach 2 tips/)).toBeTruthy();
  expect(screen.getByText(/Locked in by the figure: one tip/)).toBeTruthy();
  expect(screen.getByRole("link", { name: /supports alone/ }).getAttribute("href")).toBe(
    "/api/plans/7/stand",
  );
  buttons[0].click();
  expect(onPick).toHaveBeenCalledWith(0);
});
