// @vitest-environment happy-dom
import { render, screen, within } from "@testing-library/react";
import { MemoryRouter } from "react-router";
import { expect, test } from "vitest";
import text from "../../docs/craft.md?raw";
import { CraftPage } from "../src/craft/CraftPage";
import { DRAWN } from "../src/craft/drawings";
import { pagesOf, starred } from "../src/craft/read";

test("a page's forms are told apart", () => {
  const told = pagesOf(`# It
Before.

## One

![cup](A cup.)

Some words
go on.

- a *b*
  c
- d

| | x |
|---|---|
| q | y |

> Take care
> of it.
`);
  expect(told.before).toBe("Before.");
  expect(told.pages).toEqual([
    {
      title: "One",
      blocks: [
        { kind: "drawing", name: "cup", text: "A cup." },
        { kind: "text", text: "Some words go on." },
        { kind: "list", rows: ["a *b* c", "d"] },
        {
          kind: "schools",
          rows: [
            ["", "x"],
            ["q", "y"],
          ],
        },
        { kind: "caution", text: "Take care of it." },
      ],
    },
  ]);
  expect(starred("a *b* c").map((p) => p.strong)).toEqual([false, true, false]);
});

test("ten pages, each with a drawing of its own, and the schools beside each other", () => {
  const { pages } = pagesOf(text);
  expect(pages).toHaveLength(10);
  const drawn = pages.map((page) =>
    page.blocks.flatMap((b) => (b.kind === "drawing" ? [b.name] : [])),
  );
  expect(drawn.every((names) => names.length === 1)).toBe(true);
  expect(drawn.flat().sort()).toEqual([...DRAWN].sort());
  render(
    <MemoryRouter>
      <CraftPage />
    </MemoryRouter>,
  );
  const held = screen.getByRole("region", { name: "5. How is it held?" });
  expect(within(held).getByRole("table", { name: "Schools" }).textContent).toContain(
    "as few as hold",
  );
  expect(within(held).getByRole("img").getAttribute("aria-label")).toContain("chamfer");
  expect(screen.getAllByRole("note").length).toBeGreaterThanOrEqual(3);
});
