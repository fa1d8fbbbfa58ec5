import { describe, expect, it } from "vitest";
import { stepsOf } from "../src/bench/hour";
import type { FigureRow } from "../src/api/client";
import { entriesOf, GLOSSARY, piecesOf } from "../src/words/glossary";

describe("the glossary", () => {
  it("is read from the words' page, one sense an entry", () => {
    expect(GLOSSARY.length).toBeGreaterThan(15);
    expect(GLOSSARY.every((e) => e.sense.endsWith(".") && e.forms.length > 0)).toBe(true);
    expect(
      entriesOf("## A\n\n| word | sense |\n|---|---|\n| raft, rafts | A plate. |\n", "A"),
    ).toEqual([{ word: "raft", forms: ["raft", "rafts"], sense: "A plate." }]);
    expect(entriesOf("nothing", "A")).toEqual([]);
  });

  it("explains each word of a sentence once, the longest that fits", () => {
    const pieces = piecesOf("12 places start in mid air; an island starts. Priors, and a Prior.");
    const said = pieces.flatMap((p) => (typeof p === "string" ? [] : [p.said]));
    expect(said).toEqual(["start in mid air", "Priors"]);
    expect(pieces.map((p) => (typeof p === "string" ? p : p.said)).join("")).toBe(
      "12 places start in mid air; an island starts. Priors, and a Prior.",
    );
    expect(piecesOf("A coinsmith and a drafty hall.")).toEqual(["A coinsmith and a drafty hall."]);
  });
});

const row = (name: string | null, plan: number | null = 1): FigureRow =>
  ({ id: 1, name: "egg", plan_id: plan, next: name ? { name } : null }) as FigureRow;

describe("the first hour", () => {
  const done = (steps: ReturnType<typeof stepsOf>) => steps.map((s) => s.done);

  it("begins with a file, and goes on where the farthest figure is", () => {
    expect(done(stepsOf([], [], false))).toEqual(Array(7).fill(false));
    const some = stepsOf([row("size"), row("supports", 4)], [], false);
    expect(done(some)).toEqual([true, true, true, false, false, false, false]);
    expect(some[3].to).toBe("/plan/4/supports");
  });

  it("ends with a print whose outcome is known and a round of drills", () => {
    expect(done(stepsOf([row("log")], [{ result: null }], true))).toEqual([
      true,
      true,
      true,
      true,
      true,
      false,
      true,
    ]);
    expect(stepsOf([row("log")], [{ result: "good" }], true).every((s) => s.done)).toBe(true);
  });
});
