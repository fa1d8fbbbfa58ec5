import { useState } from "react";
import { Link } from "react-router";
import { api, need } from "../api/client";
import { useDeed, type SeriesWhole, type Specimen } from "../api/memory";
import { told } from "./read";

const HINTS: Record<string, string> = {
  count: "a whole number",
  yesno: "yes or no",
  grade: "0 to 10",
  time: "a number",
  amount: "a number",
  preference: "preferred to: names",
};

/** What was found of each specimen, typed as it is looked at; of one cell, or of all. */
export function Grading({ series, cell }: { series: SeriesWhole; cell: number | null }) {
  const rows = series.specimens.filter((s) => cell == null || s.cell === cell);
  const factors = Object.keys(series.spec.factors);
  const responses = Object.entries(series.spec.responses);
  return (
    <div className="overflow-x-auto">
      <table className="board" aria-label="Specimens">
        <thead>
          <tr>
            <th>specimen</th>
            {factors.map((name) => (
              <th key={name} className="board-left">
                {name}
              </th>
            ))}
            {responses.map(([name, kind]) => (
              <th key={name} className="board-left">
                {name}
                <br />
                {HINTS[kind]}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((specimen) => (
            <Row key={`${specimen.id} ${specimen.version}`} series={series} specimen={specimen} />
          ))}
        </tbody>
      </table>
    </div>
  );
}

function Row({ series, specimen }: { series: SeriesWhole; specimen: Specimen }) {
  const responses = Object.keys(series.spec.responses);
  const held = Object.fromEntries(
    responses.map((name) => {
      const value: unknown = specimen.found[name];
      return [name, typeof value === "string" ? value : ""];
    }),
  );
  const [found, setFound] = useState<Record<string, string>>(held);
  const keep = useDeed("series", (now: Record<string, string>) =>
    need(
      api.PUT("/api/series/{number}/specimens/{specimen}", {
        params: { path: { number: series.id, specimen: specimen.id } },
        body: { found: now, version: specimen.version },
      }),
    ),
  );
  const changed = responses.some((name) => found[name] !== held[name]);
  return (
    <tr>
      <td>
        {specimen.plan_id == null ? (
          specimen.name
        ) : (
          <Link className="text-indigo underline" to={`/plan/${specimen.plan_id}/proof`}>
            {specimen.name}
          </Link>
        )}
      </td>
      {Object.keys(series.spec.factors).map((name) => (
        <td key={name} className="board-left">
          {told(specimen.levels[name])}
        </td>
      ))}
      {responses.map((name) => (
        <td key={name} className="board-left">
          <input
            aria-label={`${name} of specimen ${specimen.name}`}
            className="field w-24"
            value={found[name]}
            onChange={(e) => setFound({ ...found, [name]: e.target.value })}
            onBlur={() => changed && !keep.isPending && keep.mutate(found)}
            onKeyDown={(e) => e.key === "Enter" && changed && keep.mutate(found)}
          />
        </td>
      ))}
    </tr>
  );
}
