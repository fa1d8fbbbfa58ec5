import { useState } from "react";
import { Link } from "react-router";
import { api, need } from "../api/client";
import { useDeed, type AbilityRow, type MachinePage } from "../api/memory";
import { day, parse } from "../shell/format";
import { Choice } from "../ui/Choice";
import { Drawn } from "./Drawn";

const SEEN = [
  { value: "out", text: "came out" },
  { value: "not", text: "did not" },
  { value: "word", text: "I know it does" },
] as const;

/** A number with its unit: angles both ways, since programs tell them both ways. */
export function measured({ unit, angle }: Pick<AbilityRow, "unit" | "angle">, value: number) {
  if (angle)
    return `${value.toFixed(0)}° from the vertical (${(90 - value).toFixed(0)}° from the plate)`;
  return `${Number(value.toPrecision(3))} ${unit}`;
}

/** On what the value rests, in words. */
export function restsOn(ability: AbilityRow): string {
  const { seen, words, last, old, contradicted, prior, prior_spread } = ability;
  if (!seen) return `A prior: ${measured(ability, prior)}, give or take ${prior_spread}.`;
  const prints = seen - words;
  const parts = [
    prints ? `${prints} ${prints === 1 ? "print" : "prints"}` : "",
    words ? `your word` : "",
  ].filter(Boolean);
  const when = last ? `, the last of ${day(last)}` : "";
  const doubt = contradicted ? " Some of it contradicts the rest: print it again." : "";
  return `Rests on ${parts.join(" and ")}${when}.${old ? " That is long ago." : ""}${doubt}`;
}

interface Props {
  page: MachinePage;
  ability: AbilityRow;
}

/** One capability: its drawn piece, its value with its spread, what it rests on, and what may be noted. */
export function Ability({ page, ability }: Props) {
  const [open, setOpen] = useState(false);
  const { printer, material } = page;
  const path = { number: printer.id };
  const body = { material_id: material.id, what: ability.code };
  const take = useDeed(
    "able",
    () => need(api.POST("/api/printers/{number}/able/take", { params: { path }, body })),
    "Taken over: every fold uses it from now on.",
  );
  const undo = useDeed(
    "able",
    (taken: number) =>
      need(
        api.POST("/api/printers/{number}/able/undo/{taken}", {
          params: { path: { ...path, taken } },
        }),
      ),
    "Put back as it was.",
  );
  return (
    <li className="flex gap-3 border-b border-thread py-2">
      <Drawn ability={ability} />
      <div className="min-w-0 flex-1">
        <h3 className="text-[16px]">{ability.title}</h3>
        <p>
          <span className="text-[16px]">{measured(ability, ability.safe)}</span>
          <span className="text-faded">
            {" "}
            comes out in nine of ten; in half, {measured(ability, ability.value)}; in 19 of 20 cases
            that lies from {Number(ability.low.toPrecision(3))} to{" "}
            {Number(ability.high.toPrecision(3))}
            {ability.angle ? "" : " "}
            {ability.unit}.
          </span>
        </p>
        <p
          className={`text-[13.5px] ${ability.contradicted || ability.old ? "text-persimmon" : "text-faded"}`}
        >
          {restsOn(ability)}
        </p>
        <div className="mt-1 flex flex-wrap items-center gap-2">
          {ability.field && ability.taken_id == null && ability.seen > 0 && (
            <button
              type="button"
              className="quiet"
              disabled={take.isPending}
              onClick={() => take.mutate(undefined)}
            >
              Use it in every fold
            </button>
          )}
          {ability.taken_id != null && (
            <>
              <span className="text-[13.5px] text-moss">Every fold uses what was taken over.</span>
              <button
                type="button"
                className="quiet"
                onClick={() => undo.mutate(ability.taken_id ?? 0)}
              >
                Put back
              </button>
            </>
          )}
          {!ability.field && (
            <span className="text-[13px] text-faded">Kept and shown; no fold asks for it yet.</span>
          )}
          <button
            type="button"
            className="quiet"
            aria-expanded={open}
            onClick={() => setOpen(!open)}
          >
            {open ? "Close" : "Note what you saw"}
          </button>
        </div>
        {open && <Note page={page} ability={ability} />}
      </div>
      <Curve ability={ability} />
    </li>
  );
}

function Note({ page, ability }: Props) {
  const [level, setLevel] = useState("");
  const [seen, setSeen] = useState<(typeof SEEN)[number]["value"]>("out");
  const path = { number: page.printer.id };
  const at = parse(level);
  const note = useDeed("able", () =>
    need(
      api.POST("/api/printers/{number}/able", {
        params: { path },
        body: {
          material_id: page.material.id,
          ability: ability.code,
          level: at,
          came_out: seen !== "not",
          word: seen === "word",
          note: "",
        },
      }),
    ),
  );
  const remove = useDeed("able", (piece: number) =>
    need(
      api.DELETE("/api/printers/{number}/able/{piece}", { params: { path: { ...path, piece } } }),
    ),
  );
  return (
    <div className="mt-2">
      <form
        className="flex flex-wrap items-center gap-2"
        onSubmit={(e) => {
          e.preventDefault();
          note.mutate(undefined, { onSuccess: () => setLevel("") });
        }}
      >
        <label>
          {ability.asks}{" "}
          <input
            className="field w-20"
            inputMode="decimal"
            aria-label={`${ability.title}, ${ability.unit}`}
            value={level}
            onChange={(e) => setLevel(e.target.value)}
          />{" "}
          {ability.unit}
        </label>
        <Choice label="What came of it" value={seen} options={SEEN} onValue={setSeen} small />
        <button
          className="quiet"
          disabled={!level.trim() || !Number.isFinite(at) || note.isPending}
        >
          Note it
        </button>
      </form>
      <ul className="mt-1 text-[13px]">
        {ability.evidence.map((e) => (
          <li key={e.id} className="flex flex-wrap gap-x-3">
            <span className={e.came_out ? "text-moss" : "text-persimmon"}>
              {e.source === "word" ? "your word" : e.came_out ? "came out" : "did not"} at {e.level}{" "}
              {ability.unit}
            </span>
            <span className="text-faded">
              {day(e.noted_at)} {e.note}
              {e.run_id != null && <Link to={`/run/${e.run_id}`}> run {e.run_id}</Link>}
            </span>
            <button type="button" className="underline" onClick={() => remove.mutate(e.id)}>
              take back
            </button>
          </li>
        ))}
      </ul>
    </div>
  );
}

const [WIDE, HIGH, FOOT] = [170, 62, 16];

/** How likely a level comes out, and what was seen: above the line what did, below what did not. */
function Curve({ ability }: { ability: AbilityRow }) {
  const [from, to] = [ability.curve[0][0], ability.curve.at(-1)?.[0] ?? 1];
  const x = (v: number) => 8 + ((v - from) / (to - from || 1)) * (WIDE - 16);
  const y = (p: number) => 6 + (1 - p) * (HIGH - 12);
  const path = ability.curve
    .map(([v, p], i) => `${i ? "L" : "M"}${x(v).toFixed(1)} ${y(p).toFixed(1)}`)
    .join("");
  return (
    <svg
      width={WIDE}
      height={HIGH + FOOT}
      role="img"
      aria-label={`Chance to come out: nine of ten at ${ability.safe.toFixed(2)} ${ability.unit}`}
      className="shrink-0 max-[1000px]:hidden"
    >
      <line x1="8" x2={WIDE - 8} y1={y(0)} y2={y(0)} stroke="var(--thread)" />
      <line x1={x(ability.safe)} x2={x(ability.safe)} y1={y(1)} y2={y(0)} stroke="var(--moss)" />
      <path d={path} fill="none" stroke="var(--indigo)" strokeWidth="1.6" />
      {ability.evidence.map((e) => (
        <circle
          key={e.id}
          cx={x(Math.min(to, Math.max(from, e.level)))}
          cy={e.came_out ? y(1) : y(0)}
          r="3.2"
          fill={e.came_out ? "var(--moss)" : "var(--persimmon)"}
          stroke={e.source === "word" ? "var(--ink)" : "none"}
        />
      ))}
      {[from, to].map((v, i) => (
        <text
          key={v}
          x={x(v)}
          y={HIGH + 12}
          textAnchor={i ? "end" : "start"}
          fontSize="11"
          fill="var(--faded)"
        >
          {Number(v.toPrecision(2))} {i ? ability.unit : ""}
        </text>
      ))}
    </svg>
  );
}
