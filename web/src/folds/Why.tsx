import { coin, inCoins } from "../shell/coin";
import { useQuery } from "@tanstack/react-query";
import { useState, type ReactNode } from "react";
import { Link } from "react-router";
import { api, need, problemOf, type PlanState, type Schemas } from "../api/client";
import { Explained } from "../words/Explained";

type Doc = Schemas["WhyDoc"];

interface Props {
  plan: PlanState;
  fold: string;
  /** The board that is seen: what was asked of it (JSON), its key, and the row shown. */
  wishes?: string;
  board: string | null;
  shown: number;
  names: readonly ReactNode[];
}

const PARTS: Record<string, string> = {
  hands: "by hand",
  machine: "the machine",
  material: "material",
  risk: "what may be lost",
};
const RATES: Record<string, { of: string; unit: string }> = {
  minute: { of: "a minute of yours", unit: "coins" },
  hour: { of: "an hour of the machine", unit: "coins" },
  lost: { of: "a loss", unit: "times what it costs" },
};
const number = (v: number) => (v >= 100 ? v.toFixed(0) : v >= 10 ? v.toFixed(1) : v.toFixed(2));

/** Ask why: what a recommendation rests on, its priors by name, and what would change it. */
export function Why(props: Props) {
  const [open, setOpen] = useState(false);
  return (
    <section aria-label="Why this one" className="my-2">
      <button
        type="button"
        className="text-[13.5px] text-indigo underline underline-offset-2"
        aria-expanded={open}
        disabled={!props.board}
        onClick={() => setOpen(!open)}
      >
        {open ? "Enough" : "Ask why"}
      </button>
      {open && props.board && <Told {...props} />}
    </section>
  );
}

function Told({ plan, fold, wishes, board, shown, names }: Props) {
  const why = useQuery({
    queryKey: ["why", plan.id, fold, board, wishes, shown],
    queryFn: () =>
      need(
        api.GET("/api/plans/{number}/why/{fold}", {
          params: { path: { number: plan.id, fold }, query: { wishes, row: shown } },
        }),
      ),
  });
  if (why.error)
    return <p className="text-[13.5px] text-persimmon">{problemOf(why.error).message}</p>;
  if (!why.data) return <p className="text-[13.5px] text-faded">Reading the evidence</p>;
  return <Evidence doc={why.data} names={names} />;
}

/** The evidence itself. */
export function Evidence({ doc, names }: { doc: Doc; names: readonly ReactNode[] }) {
  const name = (row: number) => names[row] ?? `row ${row + 1}`;
  return (
    <div className="mt-2 border-l-4 border-thread bg-paper px-4 py-3 text-[13.5px]">
      <p>
        <b className="font-medium">{name(doc.shown)}</b>{" "}
        {doc.shown === doc.recommended ? "is recommended" : "is not recommended"}
        {doc.other !== doc.shown && doc.against && (
          <>
            : beside {name(doc.other)} it takes {doc.against}
          </>
        )}
        .
        {doc.alike &&
          doc.other !== doc.shown &&
          " By what is known nobody could tell the two apart."}
        {doc.cheapest !== doc.recommended && (
          <>
            {" "}
            {name(doc.cheapest)} is {inCoins(doc.over)} cheaper,{" "}
            {doc.near
              ? "which is less than what is not known: of those the safer, or the usual one, is recommended."
              : "and is not recommended by itself: it was made by hand, or is riskier than the coins say."}
          </>
        )}
      </p>
      <table className="mt-2 w-full max-w-[860px]" aria-label="What it takes, and by which law">
        <tbody>
          {doc.parts.map((p) => (
            <tr key={p.part} className="border-t border-thread align-top">
              <th scope="row" className="w-32 py-1.5 text-left font-normal whitespace-nowrap">
                {PARTS[p.part] ?? p.part}
              </th>
              <td className="w-44 py-1.5 pr-3 whitespace-nowrap">
                {number(p.amount)} {p.unit === "coins" ? coin() : p.unit}
                {p.rate != null && ` at ${number(p.rate)}`}
                {p.unit !== "coins" && <> = {inCoins(p.coins)}</>}
              </td>
              <td className="py-1.5 text-faded">
                <Explained text={p.law} />
                {p.priors.length > 0 && (
                  <span className="block text-[12.5px]">
                    Priors:{" "}
                    {p.priors.map((o) => `${o.name} ${number(o.value)} ${o.unit}`).join("; ")}.
                  </span>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <Changes doc={doc} name={name} />
      {doc.learnt.length > 0 && (
        <p className="mt-2">
          From your own prints, in place of what the machine was set to:{" "}
          {doc.learnt.map((l) => `${l.name} ${number(l.value)}`).join("; ")}.{" "}
          <Link className="text-indigo underline" to={`/able/${doc.learnt[0].printer_id}`}>
            What this machine can do
          </Link>
        </p>
      )}
      <p className="mt-2 text-faded">
        All that is no law stands on{" "}
        <Link className="text-indigo underline" to="/priors">
          one page of priors
        </Link>
        .
      </p>
    </div>
  );
}

function Changes({ doc, name }: { doc: Doc; name: (row: number) => ReactNode }) {
  const best = doc.shown === doc.cheapest;
  return (
    <div className="mt-2" role="group" aria-label="What would change it">
      <h3 className="font-medium">What would change it</h3>
      {doc.turns.length + doc.bounds.length === 0 && (
        <p className="text-faded">
          Nothing within 64 times or a 64th of any rate or of what is reckoned of this row.
        </p>
      )}
      <ul className="list-disc pl-5">
        {doc.turns.map((t) => (
          <li key={`${t.rate} ${t.then}`}>
            {name(t.row)}, if {RATES[t.rate]?.of ?? t.rate} counted{" "}
            {t.then < t.now ? "no more than" : "at least"} {number(t.then)} {RATES[t.rate]?.unit}{" "}
            instead of {number(t.now)}.
          </li>
        ))}
        {doc.bounds.map((b) => (
          <li key={b.part}>
            {best ? (
              <>
                {name(b.row)}, if {saidOf(b)} of this one were really {amountOf(b)} or more:{" "}
                {moreOf(b.times)} what is reckoned.
              </>
            ) : (
              <>
                This one, if {saidOf(b)} were really {amountOf(b)} or less,{" "}
                {Math.round(100 * b.times)} % of what is reckoned.
              </>
            )}
          </li>
        ))}
      </ul>
    </div>
  );
}

type Bound = Doc["bounds"][number];
const saidOf = (b: Bound) =>
  ({ hands: "the minutes by hand", machine: "the hours", material: "the material" })[b.part] ??
  "the chance of a loss";
const amountOf = (b: Bound) => {
  const really = b.now * b.times;
  if (b.part === "risk") return `${(100 * really).toFixed(1)} %`;
  return `${number(really)} ${{ hands: "min", machine: "h", material: coin() }[b.part] ?? ""}`;
};
const moreOf = (times: number) =>
  times < 1.5 ? `${(100 * (times - 1)).toFixed(1)} % more than` : `${number(times)} times`;
