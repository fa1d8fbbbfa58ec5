import { inCoins } from "../shell/coin";
import { useEffect } from "react";
import { Link, useSearchParams } from "react-router";
import { problemOf } from "../api/client";
import { clock, percent } from "../shell/format";
import { Crumbs } from "../shell/Header";
import { Trouble } from "../shell/Trouble";
import { useCompared, type Compared, type Side } from "./api";
import { beside, pointsOf } from "./points";

const HOURS = (s: Side) => (s.numbers ? clock(s.numbers.time_s) : null);
const MEASURES: [string, (s: Side) => string | null][] = [
  ["minutes by hand", (s) => s.worth?.hands_min.toFixed(0) ?? null],
  ["supports off and sanded, minutes", (s) => s.removal_min?.toFixed(0) ?? null],
  ["machine", HOURS],
  ["grams", (s) => s.numbers?.mass_g.toFixed(1) ?? null],
  [
    "steps on all but the flattest, µm",
    (s) => (s.numbers ? (s.numbers.finish_mm * 1000).toFixed(0) : null),
  ],
  ["supports", (s) => s.tips?.toString() ?? null],
  ["anything lost", (s) => (s.worth ? percent(s.worth.risk) : null)],
  ["all in all, usual rates", (s) => (s.worth ? inCoins(s.worth.total) : null)],
];

/** Two plans, or two states of one, beside each other: what differs of all that is set, and what that makes of it. */
export function ComparePage() {
  const [search] = useSearchParams();
  const [one, other] = pointsOf(search);
  const { data, error } = useCompared(one, other);
  useEffect(() => {
    document.title = "Two plans · Tenugui";
  }, []);
  if (error) return <Trouble problem={problemOf(error)} />;
  if (!one.plan || !other.plan)
    return (
      <main className="p-10">
        <p>
          Two plans are compared from the line of decisions of either: open a figure, and follow
          “plan 1” in its header.
        </p>
      </main>
    );
  return (
    <main className="min-h-0 flex-1 overflow-y-auto px-8 py-5 max-[1100px]:px-5">
      <Crumbs trail={[{ text: data?.sides[0].figure_name ?? "" }, { text: "two plans" }]} />
      <h1 className="text-[27px] leading-tight">What does the other way take?</h1>
      <p className="mb-4 max-w-[90ch] text-faded">
        {wordsOf(data)} Priced at the usual rates; chances are priors.{" "}
        <Link className="underline" to={beside(other, one)}>
          The other way round
        </Link>
      </p>
      {data && (
        <div className="flex flex-wrap items-start gap-x-10 gap-y-6">
          <Both data={data} />
          <Settings data={data} />
        </div>
      )}
    </main>
  );
}

const wordsOf = (data: Compared | undefined) => {
  const said = data?.said ?? "";
  return said === "" ? "As far as both are planned." : said;
};
const dyedOf = (only: [number, number] | null) => {
  if (!only) return "Each in its own pose.";
  if (!only[0] && !only[1]) return "The same supports.";
  const mine = `${only[0]} supports only in the first, ${only[1]} only in the second`;
  return `From one side, to one scale. Dyed: ${mine}.`;
};
const named = (s: Side) => `${s.figure_name}, plan ${s.number}, ${s.said}`;

function Both({ data }: { data: Compared }) {
  return (
    <section aria-label="What they take" className="min-w-96 flex-1">
      <table className="w-full text-[14px]">
        <thead>
          <tr className="text-left align-bottom text-[13px] text-faded">
            <th />
            {data.sides.map((s, k) => (
              <th key={k} className="w-40 pb-1 font-normal">
                <Link className="underline" to={`/plan/${s.plan_id}`}>
                  {named(s)}
                </Link>
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {MEASURES.map(([name, of]) => {
            const told = data.sides.map(of);
            if (told.every((t) => t == null)) return null;
            return (
              <tr key={name} className="border-t border-thread">
                <td className="py-1 pr-3 text-faded">{name}</td>
                {told.map((t, k) => (
                  <td key={k} className={told[0] === told[1] ? "text-faded" : ""}>
                    {t ?? "not planned"}
                  </td>
                ))}
              </tr>
            );
          })}
        </tbody>
      </table>
      {data.pictures ? (
        <figure className="mt-3">
          <div className="flex gap-3">
            {data.pictures.map((png, k) => (
              <img
                key={k}
                src={`data:image/png;base64,${png}`}
                alt={named(data.sides[k])}
                className="max-h-[44vh] min-w-0 flex-1 border border-thread bg-paper object-contain"
              />
            ))}
          </div>
          <figcaption className="mt-1 text-[13px] text-faded">{dyedOf(data.only)}</figcaption>
        </figure>
      ) : (
        <p className="mt-3 text-faded">
          Minutes, costs and pictures come once both have their supports, computed as they stand
          today.
        </p>
      )}
    </section>
  );
}

function Settings({ data }: { data: Compared }) {
  return (
    <section aria-label="What is set otherwise" className="min-w-96 flex-1">
      <h2 className="text-[18px]">What is set otherwise</h2>
      {data.changed.length === 0 && <p className="text-faded">Nothing.</p>}
      <table className="w-full text-[13.5px]">
        <tbody>
          {data.changed.map((c) => (
            <tr key={`${c.where} ${c.name}`} className="border-b border-thread align-top">
              <th scope="row" className="w-44 py-1 pr-3 text-left font-normal text-faded">
                {c.where === "plan" ? c.name : `${c.where}: ${c.name.toLowerCase()}`}
              </th>
              <td className="py-1 pr-3">{c.before}</td>
              <td className="py-1">{c.now}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="mt-1 text-[13px] text-faded">{data.alike} other settings are alike.</p>
    </section>
  );
}
