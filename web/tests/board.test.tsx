// @vitest-environment happy-dom
import { renderHook, screen, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { HotkeysProvider } from "react-hotkeys-hook";
import { describe, expect, it, vi } from "vitest";
import { useBoardKeys } from "../src/folds/board";
import { Board, type Column } from "../src/ui/Board";
import { Choice } from "../src/ui/Choice";
import { Slide } from "../src/ui/Slide";
import { shown } from "./page";

interface Row {
  name: string;
  tips: number;
}
const rows: Row[] = [
  { name: "upright", tips: 12 },
  { name: "on its back", tips: 3 },
  { name: "head down", tips: 40 },
];
const columns: Column<Row>[] = [
  { id: "tips", head: "tips", cell: (r) => r.tips },
  { id: "far", head: "wide", name: "wide", from: 5000, cell: (r) => `${r.tips} far` },
];

function Shown({ onShown }: { onShown?: (i: number) => void }) {
  const [shownRow, setShown] = useState(0);
  return (
    <Board
      label="Poses"
      rows={rows}
      keyOf={(r) => r.name}
      columns={columns}
      text={(r) => r.name}
      textHead="pose"
      shown={shownRow}
      onShown={
        onShown &&
        ((i) => {
          setShown(i);
          onShown(i);
        })
      }
    />
  );
}
const line = (i: number) =>
  within(screen.getByRole("table", { name: "Poses" })).getAllByRole("row")[i + 1];

describe("the board", () => {
  it("tells every row in the order given, the shown one marked", () => {
    shown(<Shown onShown={vi.fn()} />);
    expect(rows.map((_, i) => line(i).getAttribute("aria-selected"))).toEqual([
      "true",
      "false",
      "false",
    ]);
    expect(line(1).textContent).toContain("on its back");
    expect(line(2).textContent).toContain("40");
  });

  it("folds a column that has no room under the row's words, by its name", () => {
    shown(<Shown onShown={vi.fn()} />);
    expect(screen.queryByRole("columnheader", { name: "wide" })).toBeNull();
    expect(line(0).textContent).toContain("wide 12 far");
  });

  it("shows a row that is pressed, or reached by the keyboard", async () => {
    const told = vi.fn();
    shown(<Shown onShown={told} />);
    await userEvent.click(line(2));
    expect(told).toHaveBeenLastCalledWith(2);
    line(1).focus();
    expect(told).toHaveBeenLastCalledWith(1);
  });

  it("is read only where nobody listens", () => {
    shown(<Shown />);
    expect(line(0).getAttribute("tabindex")).toBeNull();
    expect(line(0).getAttribute("aria-selected")).toBeNull();
  });
});

describe("the keys of a board", () => {
  const keys = (shownRow: number) => {
    const on = vi.fn();
    const take = vi.fn();
    const held = renderHook((row: number) => useBoardKeys(3, row, on, take), {
      initialProps: shownRow,
      wrapper: ({ children }) => <HotkeysProvider>{children}</HotkeysProvider>,
    });
    return { on, take, ...held };
  };

  it("walk down and up, and stop at its ends", async () => {
    const { on } = keys(1);
    await userEvent.keyboard("j");
    expect(on).toHaveBeenLastCalledWith(2);
    await userEvent.keyboard("j");
    expect(on).toHaveBeenLastCalledWith(2);
    await userEvent.keyboard("kkkk");
    expect(on).toHaveBeenLastCalledWith(0);
  });

  it("take two quick steps for two, though the address follows a moment later", async () => {
    const { on } = keys(0);
    await userEvent.keyboard("jj");
    expect(on.mock.calls.map(([row]) => row as number)).toEqual([1, 2]);
  });

  it("take the row that is shown", async () => {
    const { take } = keys(2);
    await userEvent.keyboard("{Enter}");
    expect(take).toHaveBeenCalledOnce();
  });
});

describe("small things of the page", () => {
  it("choose one of a few, by hand and by arrow", async () => {
    const told = vi.fn();
    const options = [
      { value: "pillars", text: "Pillars" },
      { value: "trees", text: "Trees" },
    ] as const;
    function Held() {
      const [value, setValue] = useState<"pillars" | "trees">("pillars");
      return (
        <Choice
          label="Style"
          value={value}
          options={options}
          onValue={(v) => {
            setValue(v);
            told(v);
          }}
        />
      );
    }
    shown(<Held />);
    await userEvent.click(screen.getByRole("radio", { name: "Trees" }));
    expect(told).toHaveBeenLastCalledWith("trees");
    await userEvent.keyboard("{ArrowLeft}");
    expect(screen.getByRole("radio", { name: "Pillars" })).toHaveFocus();
  });

  it("move a thumb by arrows within its ends, and say where it is", async () => {
    const told = vi.fn();
    shown(
      <Slide
        label="Risk"
        value={0.9}
        min={0}
        max={1}
        step={0.1}
        said="nine tenths"
        onValue={told}
      />,
    );
    const thumb = screen.getByRole("slider", { name: "Risk" });
    expect(thumb).toHaveAttribute("aria-valuetext", "nine tenths");
    thumb.focus();
    await userEvent.keyboard("{ArrowRight}");
    expect(told).toHaveBeenLastCalledWith(1);
    await userEvent.keyboard("{Home}");
    expect(told).toHaveBeenLastCalledWith(0);
  });
});
