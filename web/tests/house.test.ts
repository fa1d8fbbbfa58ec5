import { readdirSync, readFileSync } from "node:fs";
import { dirname, join, relative, resolve } from "node:path";
import { describe, expect, it } from "vitest";

const SRC = join(dirname(new URL(import.meta.url).pathname), "../src");
const MOST_COLUMNS = 120;
const files = readdirSync(SRC, { recursive: true, encoding: "utf8" })
  .filter((f) => /\.tsx?$/.test(f) && f !== "api/schema.ts")
  .map((f) => join(SRC, f));
const textOf = (file: string) => readFileSync(file, "utf8");

/** The source files that one imports. */
function importsOf(file: string): string[] {
  const found = textOf(file).matchAll(/from "(\.[^"]+)"/g);
  return [...found].flatMap(([, path]) => {
    const base = resolve(dirname(file), path);
    return files.filter((f) => f === `${base}.ts` || f === `${base}.tsx`);
  });
}

/** A way from a file back to itself, if there is one. */
function circleFrom(file: string, way: string[], done: Set<string>): string[] | null {
  if (way.includes(file)) return [...way.slice(way.indexOf(file)), file];
  if (done.has(file)) return null;
  for (const next of importsOf(file)) {
    const circle = circleFrom(next, [...way, file], done);
    if (circle) return circle;
  }
  done.add(file);
  return null;
}

describe("the house", () => {
  it("has no circle of imports", () => {
    const done = new Set<string>();
    const circles = files.map((f) => circleFrom(f, [], done)).filter((c) => c !== null);
    expect(circles.map((c) => c.map((f) => relative(SRC, f)))).toEqual([]);
  });

  it("finds a circle where there is one", () => {
    expect(circleFrom(files[0], [files[0]], new Set())).toEqual([files[0], files[0]]);
  });

  it("has no line that nobody can read", () => {
    const long = files.flatMap((f) =>
      textOf(f)
        .split("\n")
        .flatMap((line, i) =>
          line.length > MOST_COLUMNS && !/className=|^\s*(\*|\/\*\*|\/\/)/.test(line)
            ? [`${relative(SRC, f)}:${i + 1}`]
            : [],
        ),
    );
    expect(long).toEqual([]);
  });

  it("imports libraries by the folds' own rooms, and no room from above it", () => {
    const low = ["api", "ui", "patterns", "strip", "turntable", "stage", "shell"];
    const wrong = files
      .filter((f) => low.some((room) => relative(SRC, f).startsWith(`${room}/`)))
      .flatMap((f) => importsOf(f).map((g) => [relative(SRC, f), relative(SRC, g)]))
      .filter(([, to]) => /^(folds|bench|kit|settings)\//.test(to));
    expect(wrong).toEqual([]);
  });
});
