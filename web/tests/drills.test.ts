import { describe, expect, it } from "vitest";
import { howHard, letterOf, optionOf, pickedWith, saidOf } from "../src/drills/letters";

describe("options of a drill", () => {
  it("are lettered, and picked by digits", () => {
    expect([0, 5].map(letterOf)).toEqual(["A", "F"]);
    expect(["1", "4", "5", "0", "a", "11", " "].map((key) => optionOf(key, 4))).toEqual([
      0, 3, -1, -1, -1, -1, -1,
    ]);
  });

  it("are one alone, or as many as are right", () => {
    expect(pickedWith([], 2, false)).toEqual([2]);
    expect(pickedWith([2], 1, false)).toEqual([1]);
    expect(pickedWith([2], 2, false)).toEqual([]);
    expect(pickedWith([3], 1, true)).toEqual([1, 3]);
    expect(pickedWith([1, 3], 3, true)).toEqual([1]);
  });

  it("are graded in a word", () => {
    expect([1, 0.7, 0.2, 0].map(saidOf)).toEqual(["Right.", "Nearly.", "In part.", "Not so."]);
  });
});

it("how hard a question is goes down with the chance of a right answer", () => {
  expect([0.95, 0.7, 0.5, 0.1].map(howHard)).toEqual([
    "easy for you",
    "about your measure",
    "hard for you",
    "very hard for you",
  ]);
});
