// @vitest-environment happy-dom
import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { describe, expect, it, vi } from "vitest";
import type { Intake, Place } from "../src/api/client";
import { OutcomeForm } from "../src/folds/log/OutcomeForm";
import { Fields, lengthOf, type Marks } from "../src/folds/size/Fields";
import { Stands } from "../src/folds/size/Stands";
import { useView } from "../src/shell/view";
import { refusal, run, served, shown } from "./page";

const measured = {
  size_mm: [20, 10, 50] as [number, number, number],
  lower: [0, 0, 5] as [number, number, number],
};

interface HeldProps {
  told: (f: number) => void;
  marks?: Marks;
  size?: [number, number, number];
}

function Held({ told, marks, size }: HeldProps) {
  const [factor, setFactor] = useState(1);
  return (
    <Fields
      measured={{ ...measured, size_mm: size ?? measured.size_mm }}
      factor={factor}
      onFactor={(f) => {
        setFactor(f);
        told(f);
      }}
      marks={marks ?? { eye: null, crown: null }}
      marking={null}
      onMarking={vi.fn()}
    />
  );
}
const field = (label: RegExp | string) => screen.getByLabelText<HTMLInputElement>(label);
async function type(label: RegExp | string, text: string) {
  await userEvent.clear(field(label));
  await userEvent.type(field(label), text);
}

describe("the numbers of a size", () => {
  it("follow the one that is typed", async () => {
    const told = vi.fn();
    shown(<Held told={told} />);
    await type(/Height of the whole figure/, "75");
    expect(told).toHaveBeenLastCalledWith(1.5);
    expect(field(/Of the file's numbers/).value).toBe("150.0");
    expect(screen.getByText("30.0 mm wide, 15.0 mm deep")).toBeDefined();
  });

  it("take a comma, and a share of the file", async () => {
    const told = vi.fn();
    shown(<Held told={told} />);
    await type(/Of the file's numbers/, "62,5");
    expect(told).toHaveBeenLastCalledWith(0.625);
  });

  it.each(["0", "-5", "tall", "100000"])(
    "refuse a height of %s and keep what was",
    async (text) => {
      const told = vi.fn();
      shown(<Held told={told} />);
      const box = field(/Height of the whole figure/);
      await userEvent.clear(box);
      await userEvent.type(box, text);
      expect(box.getAttribute("aria-invalid")).toBe("true");
      const heights = told.mock.calls.map(([f]) => (f as number) * 50);
      expect(heights.every((h) => h > 0.5 && h <= 2000)).toBe(true);
      await userEvent.tab();
      expect(field(/Height of the whole figure/).getAttribute("aria-invalid")).toBe("false");
    },
  );

  it("know common heights and which of them is taken", async () => {
    const told = vi.fn();
    shown(<Held told={told} />);
    const [first] = screen.getByRole("group", { name: "Common sizes" }).querySelectorAll("button");
    await userEvent.click(first);
    expect(told).toHaveBeenLastCalledWith(Number(first.textContent) / 50);
    expect(first).toHaveAttribute("aria-pressed", "true");
    await userEvent.click(screen.getByRole("button", { name: "as in the file" }));
    expect(told).toHaveBeenLastCalledWith(1);
  });

  it("ask what lies low by its length too, and what lies flat first by that", async () => {
    const told = vi.fn();
    shown(<Held told={told} size={[120, 60, 8]} />);
    await type(/Its length/, "60");
    expect(told).toHaveBeenLastCalledWith(0.5);
    expect(field(/Height of the whole figure/).value).toBe("4.0");
    await userEvent.click(screen.getByRole("button", { name: "54" }));
    expect(told).toHaveBeenLastCalledWith(54 / 120);
    expect(lengthOf([50, 30, 26])).toEqual({ long: null, flat: false });
    expect(lengthOf([70, 30, 30])).toEqual({ long: 70, flat: false });
  });

  it("measure to the eye from the foot, not from the file's zero", async () => {
    const told = vi.fn();
    shown(<Held told={told} marks={{ eye: 45, crown: null }} />);
    expect(field(/To the eye/).value).toBe("40.0");
    await type(/To the eye/, "28");
    expect(told).toHaveBeenLastCalledWith(expect.closeTo(0.7, 9));
    expect(field(/To the crown/).disabled).toBe(true);
  });

  it("turn one scale into another", async () => {
    const told = vi.fn();
    shown(<Held told={told} />);
    await type("Modelled at 1 to", "35");
    await type("Printed at 1 to", "70");
    expect(told).toHaveBeenLastCalledWith(0.5);
  });
});

const UPRIGHT = {
  sure: true,
  ups: [
    { up: [0, 0, 1], front: [0, -1, 0], why: "as the file has it" },
    { up: [0, 1, 0], front: [0, 0, 1], why: "on its broad foot" },
  ],
} as unknown as Intake["upright"];

describe("which way up", () => {
  const drawn = (up: Place, change: Partial<Parameters<typeof Stands>[0]> = {}) => {
    const told = { stand: vi.fn(), pointing: vi.fn(), turning: vi.fn() };
    shown(
      <Stands
        upright={UPRIGHT}
        up={up}
        front={[0, -1, 0]}
        pointing={false}
        turning={false}
        onStand={told.stand}
        onPointing={told.pointing}
        onTurning={told.turning}
        {...change}
      />,
    );
    return told;
  };

  it("is told as a guess while it is one, as an unsure one where it is, and as nothing once it was chosen", () => {
    drawn([0, 0, 1]);
    expect(screen.getByText(/\(a guess\)/)).toBeDefined();
  });

  it("asks to be looked at where the guess is unsure", () => {
    drawn([0, 0, 1], { upright: { ...UPRIGHT, sure: false } });
    expect(screen.getByText(/unsure guess: look at it/)).toBeDefined();
  });

  it("is no guess where another way was taken, and says that it was set", () => {
    drawn([0.6, 0, 0.8]);
    expect(screen.queryByText(/guess/)).toBeNull();
    expect(screen.getByRole("combobox", { name: "It stands" }).textContent).toContain(
      "as you set it",
    );
  });

  it("is tilted by hand in steps that say up and front anew", async () => {
    const told = drawn([0, 0, 1], { turning: true });
    await userEvent.click(screen.getByRole("button", { name: "around" }));
    const [up, front] = told.stand.mock.lastCall as [Place, Place];
    expect(up[2]).toBeCloseTo(1);
    expect(Math.atan2(front[0], -front[1])).toBeCloseTo(-Math.PI / 12);
  });

  it("brings its own front with each way that is chosen", async () => {
    const told = drawn([0, 0, 1]);
    screen.getByRole("combobox", { name: "It stands" }).focus();
    await userEvent.keyboard("{Enter}");
    await userEvent.click(await screen.findByRole("option", { name: "on its broad foot" }));
    expect(told.stand).toHaveBeenCalledWith([0, 1, 0], [0, 0, 1]);
  });

  it("turns its front a quarter about its own up", async () => {
    const told = drawn([0, 0, 1]);
    await userEvent.click(screen.getByRole("button", { name: "turn its front" }));
    const [up, front] = told.stand.mock.lastCall as [Place, Place];
    expect(up).toEqual([0, 0, 1]);
    expect(Math.abs(front[0])).toBeCloseTo(1, 9);
    expect(front[1]).toBeCloseTo(0, 9);
  });

  it("waits for a click on the foot, and lets go of it", async () => {
    const told = drawn([0, 0, 1]);
    await userEvent.click(screen.getByRole("button", { name: "point at its foot" }));
    expect(told.pointing).toHaveBeenCalledWith(true);
  });
});

const KINDS = {
  "GET /api/hazards": [
    { code: "island", name: "starts in mid air", loss: "part lost" },
    { code: "strings", name: "strings", loss: "scar" },
  ],
};

describe("what became of a run", () => {
  it("keeps hours as seconds, grams, and a layer only of what failed", async () => {
    const asked = served({ "PUT /api/runs/5/outcome": null, ...KINDS });
    const done = vi.fn();
    shown(<OutcomeForm run={run()} done={done} />);
    expect(screen.queryByLabelText("Failed at layer")).toBeNull();
    await userEvent.click(screen.getByRole("radio", { name: "part lost" }));
    await userEvent.type(screen.getByLabelText("Hours it took"), "2,5");
    await userEvent.type(screen.getByLabelText("Failed at layer"), "120");
    await userEvent.click(screen.getByRole("combobox", { name: "What came true" }));
    expect(screen.queryByRole("option", { name: "strings" })).toBeNull();
    await userEvent.click(screen.getByRole("option", { name: "starts in mid air" }));
    await userEvent.type(screen.getByLabelText("Note"), "the spear broke");
    await userEvent.click(screen.getByRole("button", { name: "Keep this outcome" }));
    await waitFor(() => expect(done).toHaveBeenCalledOnce());
    expect(asked.at(-1)?.body).toEqual({
      result: "part lost",
      real_s: 9000,
      real_g: null,
      failed_layer: 120,
      removal: 2,
      note: "the spear broke",
      cause: "island",
    });
  });

  it("does not keep a number that is none, and says so", async () => {
    const asked = served(KINDS);
    shown(<OutcomeForm run={run()} done={vi.fn()} />);
    await userEvent.type(screen.getByLabelText("Grams used"), "some");
    expect(screen.getByRole("status").textContent).toContain("plain numbers");
    await userEvent.click(screen.getByRole("button", { name: "Keep this outcome" }));
    expect(asked.filter((a) => a.method === "PUT")).toEqual([]);
    await userEvent.clear(screen.getByLabelText("Grams used"));
    expect(screen.queryByRole("status")).toBeNull();
  });

  it("is filled with what was kept, to be corrected", () => {
    shown(
      <OutcomeForm
        run={run({ result: "scarred", real_s: 5400, real_g: 28, removal: 4, note: "cheek" })}
        done={vi.fn()}
      />,
    );
    expect(screen.getByRole("radio", { name: "scarred" })).toBeChecked();
    expect(field("Hours it took").value).toBe("1.50");
    expect(field("Grams used").value).toBe("28");
    expect(field("Note").value).toBe("cheek");
    expect(screen.getByRole("combobox").textContent).toContain("hard");
  });

  it("says what the bench says where it is refused, and stays open", async () => {
    served({ "PUT /api/runs/5/outcome": refusal(404, "no-run", "There is no run number 5.") });
    const done = vi.fn();
    shown(<OutcomeForm run={run()} done={done} />);
    await userEvent.click(screen.getByRole("button", { name: "Keep this outcome" }));
    await waitFor(() =>
      expect(useView.getState().toasts.at(-1)?.text).toBe("There is no run number 5."),
    );
    expect(done).not.toHaveBeenCalled();
  });
});
