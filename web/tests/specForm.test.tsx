// @vitest-environment happy-dom
import { screen } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, it, vi } from "vitest";
import type { Machine } from "../src/api/client";
import { SpecForm } from "../src/shelf/SpecForm";
import type { Field } from "../src/shelf/values";
import { shown } from "./page";

const seam: Field = {
  name: "seam_at",
  group: "Lines",
  title: "Loops begin",
  unit: "",
  kind: "whole",
  many: 1,
  low: 0,
  high: 2,
  above: false,
  optional: false,
  default: 2,
  words: ["at the back", "in a crease", "where nobody looks"],
};

it("shows a choice in its words and keeps its number", async () => {
  const kept = vi.fn();
  const machine = { id: 1, name: "wader", spec: { seam_at: 1 } } as unknown as Machine;
  shown(
    <SpecForm
      fields={[seam]}
      kept={machine}
      process="filament"
      busy={false}
      onKeep={kept}
      onAway={vi.fn()}
    />,
  );
  expect(screen.getByRole("combobox", { name: "Loops begin" }).textContent).toContain(
    "in a crease",
  );
  await userEvent.click(screen.getByRole("button", { name: "Keep it" }));
  expect(kept).toHaveBeenCalledWith({ name: "wader", process: "filament", seam_at: 1 });
});
