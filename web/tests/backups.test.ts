import { describe, expect, it } from "vitest";
import { backupLine } from "../src/settings/words";

describe("nightly backups in words", () => {
  const held = { here: true, kept: 3, hour: 3, taken: [], problem: "" };
  const one = { name: "bench-2026-11-30.sql", at: "2026-11-30T03:00:00", size: 12 * 2 ** 20 };
  it("says what is there, and what went wrong", () => {
    expect(backupLine(held)).toBe("None was taken yet.");
    expect(backupLine({ ...held, taken: [one] })).toMatch(/12 MB, 1 kept\.$/);
    expect(backupLine({ ...held, kept: 0 })).toMatch(/No more are taken\.$/);
    expect(backupLine({ ...held, problem: "no room" })).toMatch(/failed: no room$/);
    expect(backupLine({ ...held, here: false })).toBe("This application takes none.");
  });
});
