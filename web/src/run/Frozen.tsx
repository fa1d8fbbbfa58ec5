import type { Schemas } from "../api/client";

type Line = Schemas["FrozenLine"];
const TITLES: Record<Line["where"], string> = {
  plan: "The plan",
  printer: "The printer",
  material: "The material",
  room: "The day",
};

/** Everything that was set when the run was started, as it was then. */
export function Frozen({ lines }: { lines: Line[] }) {
  if (!lines.length)
    return (
      <p className="mt-4 text-faded">
        This run was logged before runs kept their settings: only its outcome is known.
      </p>
    );
  return (
    <details className="mt-5">
      <summary className="cursor-pointer font-display text-[18px] text-indigo">
        All that was set, {lines.length} lines
      </summary>
      {(Object.keys(TITLES) as Line["where"][]).map((where) => {
        const mine = lines.filter((line) => line.where === where);
        return (
          mine.length > 0 && (
            <section key={where} className="mt-2">
              <h3 className="text-[15px]">{TITLES[where]}</h3>
              <dl className="grid grid-cols-[minmax(0,0.5fr)_minmax(0,0.5fr)] gap-x-4 text-[13.5px]">
                {mine.map((line) => (
                  <div key={line.name} className="contents">
                    <dt className="text-faded">{line.name}</dt>
                    <dd>{line.value}</dd>
                  </div>
                ))}
              </dl>
            </section>
          )
        );
      })}
    </details>
  );
}
