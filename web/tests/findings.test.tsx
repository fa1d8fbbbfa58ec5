// @vitest-environment happy-dom
import { fireEvent, render, screen } from "@testing-library/react";
import { expect, it, vi } from "vitest";
import { Findings, MayBreak } from "../src/folds/supports/Findings";
import "./page";

const finding = (code: string, severity: string) => ({
  code,
  severity,
  count: 1,
  message: `about ${code}`,
  place: null,
});

it("tells every finding, what is severe by its edge", () => {
  render(<Findings of={[finding("sways", "warning"), finding("breaks-marks", "severe")]} />);
  expect(screen.getByText("about sways").className).toContain("border-thread");
  expect(screen.getByText("about breaks-marks").className).toContain("border-persimmon");
});

it("asks for one's word before one's marks are broken", () => {
  const say = vi.fn();
  const first = render(<MayBreak many={1} value={false} onValue={say} />);
  fireEvent.click(screen.getByRole("checkbox", { name: "One tip may stand on your marks" }));
  expect(say).toHaveBeenCalledWith(true);
  first.unmount();
  render(<MayBreak many={3} value onValue={say} />);
  const word = screen.getByRole<HTMLInputElement>("checkbox", {
    name: "3 tips may stand on your marks",
  });
  expect(word.checked).toBe(true);
});
