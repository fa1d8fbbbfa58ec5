import type { Schemas } from "../api/client";
import { day, hour } from "../shell/format";

/** What is there of backups, in words. */
export function backupLine({ here, kept, taken, problem }: Schemas["Backups"]): string {
  if (!here) return "This application takes none.";
  const last = taken.at(0);
  const size = last ? `${(last.size / 2 ** 20).toFixed(0)} MB, ${taken.length} kept` : "";
  const there = last
    ? `The last one is of ${day(last.at)}, ${hour(last.at)}: ${size}.`
    : "None was taken yet.";
  if (problem) return `${there} The last attempt failed: ${problem}`;
  return kept ? there : `${there} No more are taken.`;
}
