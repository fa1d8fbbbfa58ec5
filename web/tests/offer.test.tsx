// @vitest-environment happy-dom
import { fireEvent, render, screen } from "@testing-library/react";
import { expect, test } from "vitest";
import type { PlanState } from "../src/api/client";
import { Offer } from "../src/folds/proof/Offer";

const plan = { id: 7 } as PlanState;
const link = () => screen.getByRole("link").getAttribute("href");

test("an offer asks for what was typed, and for nothing that cannot be", () => {
  render(<Offer plan={plan} ready />);
  expect(link()).toBe("/api/plans/7/offer?pieces=1&more=0&unit=coins");
  fireEvent.change(screen.getByLabelText("Pieces of an offer"), { target: { value: "12" } });
  fireEvent.change(screen.getByLabelText("Percent on top of an offer"), {
    target: { value: "25" },
  });
  fireEvent.change(screen.getByLabelText("Currency of an offer"), {
    target: { value: "reeds & co" },
  });
  expect(link()).toBe("/api/plans/7/offer?pieces=12&more=0.25&unit=reeds+%26+co");
  fireEvent.change(screen.getByLabelText("Pieces of an offer"), { target: { value: "-3" } });
  fireEvent.change(screen.getByLabelText("Percent on top of an offer"), {
    target: { value: "much" },
  });
  fireEvent.change(screen.getByLabelText("Currency of an offer"), { target: { value: "  " } });
  expect(link()).toBe("/api/plans/7/offer?pieces=1&more=0&unit=coins");
});
