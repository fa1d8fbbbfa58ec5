import { useEffect, useState } from "react";
import { useParams } from "react-router";
import { problemOf } from "../api/client";
import { useAddress } from "../shell/address";
import { clock } from "../shell/format";
import { Crumbs } from "../shell/Header";
import { Trouble } from "../shell/Trouble";
import { Choice } from "../ui/Choice";
import { usePlate, usePlateDeeds, type Deeds, type Whole } from "./api";
import { Bed } from "./Bed";
import { Begun } from "./Begun";
import { Card } from "./Card";
import { Pieces } from "./Pieces";
import { Said } from "./Said";
import { Curve, Spent } from "./Spent";
import { Start } from "./Start";

/** A plate: which pieces, where they lie, what that takes, and what to look at. */
export function PlatePage() {
  const { plate: id = "0" } = useParams();
  const held = usePlate(Number(id));
  const name = held.data?.name ?? "Plate";
  useEffect(() => {
    document.title = `${name} · Tenugui`;
  }, [name]);
  if (held.error) return <Trouble problem={problemOf(held.error)} />;
  if (!held.data) return <p className="p-10 text-faded">Laying the plate out</p>;
  return <Plate key={id} whole={held.data} />;
}

const RATES = [
  { value: "evening", text: "an evening's hobby" },
  { value: "order", text: "on order" },
  { value: "army", text: "an army" },
] as const;

/** What all plates come to, in one line. */
export function lineOf(whole: Whole): string {
  const many = whole.plates.reduce((n, p) => n + p.doc.items.length, 0);
  if (!many)
    return whole.unlaid ? `${whole.unlaid} pieces wait to be laid out.` : "Nothing lies on it.";
  const good = whole.plates.reduce((n, p) => n + p.doc.good, 0);
  const time = whole.plates.reduce((n, p) => n + p.doc.time_s, 0);
  const plates = whole.plates.length === 1 ? "one plate" : `${whole.plates.length} plates`;
  const each = whole.hours_per_good_piece;
  return (
    `${many} ${many === 1 ? "piece" : "pieces"} on ${plates}, ${clock(time)}: ` +
    `${good.toFixed(1)} come off whole on average (prior)` +
    (each == null ? "." : `, ${each.toFixed(2)} h a good one.`)
  );
}

function Plate({ whole }: { whole: Whole }) {
  const { number, put } = useAddress();
  const deeds = usePlateDeeds(whole);
  const [chosen, setChosen] = useState<number | null>(null);
  const [keeping, setKeeping] = useState(false);
  const wanted = (number("plate") ?? 1) - 1;
  const plate = whole.plates.find((p) => p.number === wanted) ?? whole.plates.at(0);
  const uncounted = whole.pieces.some((p) => p.state === "counting" && !p.job_id);
  const { count } = deeds;
  useEffect(() => {
    if (uncounted) count();
    // Once for each version: a footprint that cannot be drawn is told, and not tried for ever.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [uncounted, whole.version]);
  const ready = whole.pieces.some((p) => p.state === "ready");
  return (
    <>
      <Crumbs
        trail={[{ text: "Plates", to: "/plates" }, { text: whole.name }]}
        undo={
          whole.can_undo ? { text: `Undo: ${whole.can_undo}`, run: () => deeds.turn("undo") } : null
        }
        redo={
          whole.can_redo ? { text: `Redo: ${whole.can_redo}`, run: () => deeds.turn("redo") } : null
        }
      />
      <main className="flex min-h-0 flex-1 gap-8 px-8 py-4 max-[1100px]:gap-5 max-[1100px]:px-5">
        <section aria-label="From above" className="flex min-w-0 flex-[3] flex-col">
          <h1 className="text-[27px] leading-tight">What lies together?</h1>
          <p className="text-faded">
            {whole.printer_name}. {lineOf(whole)}
          </p>
          <div className="my-2 flex flex-wrap items-center gap-2">
            <button
              type="button"
              className="take"
              disabled={!ready || deeds.busy}
              onClick={() => {
                setChosen(null);
                deeds.lay();
              }}
            >
              {whole.plates.length ? "Lay it out anew" : "Lay it out"}
            </button>
            {whole.plates.length > 1 && (
              <Choice
                small
                label="Which plate"
                value={String((plate?.number ?? 0) + 1)}
                options={whole.plates.map((p) => ({
                  value: String(p.number + 1),
                  text: `plate ${p.number + 1}${p.wrong.length ? " !" : ""}`,
                }))}
                onValue={(v) => {
                  setChosen(null);
                  put({ plate: v });
                }}
              />
            )}
            <Gap whole={whole} deeds={deeds} />
            {plate?.in_turn && (whole.in_turn || plate.in_turn.can) && (
              <Choice
                small
                label="In which order"
                value={whole.in_turn ? "turn" : "layers"}
                options={[
                  { value: "layers", text: "layer by layer" },
                  { value: "turn", text: "one after the other" },
                ]}
                onValue={(v) => deeds.change({ in_turn: v === "turn" })}
              />
            )}
            <button
              type="button"
              className="quiet px-2.5"
              aria-pressed={keeping}
              onClick={() => setKeeping(!keeping)}
            >
              {keeping ? "draw a box on the plate" : "keep a place free"}
            </button>
            {whole.free.length > 0 && (
              <button
                type="button"
                className="text-faded underline"
                onClick={() => deeds.change({ free: [] })}
              >
                give {whole.free.length === 1 ? "it" : "all of them"} back
              </button>
            )}
          </div>
          {plate ? (
            <>
              <Bed
                whole={whole}
                plate={plate}
                chosen={chosen}
                onChosen={setChosen}
                keeping={keeping}
                onKept={(box) => {
                  setKeeping(false);
                  if (box && box.x1_mm > box.x0_mm && box.y1_mm > box.y0_mm)
                    deeds.change({ free: [...whole.free, box] });
                }}
                deeds={deeds}
              />
              <Said whole={whole} plate={plate} chosen={chosen} onChosen={setChosen} />
            </>
          ) : (
            <p className="m-auto max-w-[50ch] text-center text-faded">
              {ready
                ? "Lay it out: turned and nested by their true outlines, supports and all."
                : "Its pieces are not ready: see beside what each waits for."}
            </p>
          )}
        </section>
        <div className="min-h-0 min-w-0 flex-[2] space-y-4 overflow-y-auto pr-1">
          <Pieces whole={whole} deeds={deeds} />
          {whole.left.map((l) => (
            <p key={`${l.plan_id} ${l.why}`} className="text-persimmon">
              {l.copies} of plan {l.plan_id} left out. {l.why}
            </p>
          ))}
          {plate && <Start key={plate.number} whole={whole} plate={plate} />}
          {plate && <Spent plate={plate} />}
          <Choice
            small
            label="Whose rates"
            value={whole.rates as (typeof RATES)[number]["value"]}
            options={RATES}
            onValue={(rates) => deeds.change({ rates })}
          />
          <Curve whole={whole} />
          {plate && <Card whole={whole} plate={plate} deeds={deeds} />}
          <Begun whole={whole} />
        </div>
      </main>
    </>
  );
}

function Gap({ whole, deeds }: { whole: Whole; deeds: Deeds }) {
  const [typed, setTyped] = useState(String(whole.gap_mm));
  return (
    <label className="flex items-center gap-1.5 text-faded">
      gap
      <input
        className="field w-14 text-ink"
        aria-label="Gap in mm"
        inputMode="decimal"
        value={typed}
        onChange={(e) => setTyped(e.target.value)}
        onBlur={() => {
          const gap = Number(typed.replace(",", "."));
          if (!(gap >= 0 && gap <= 50)) setTyped(String(whole.gap_mm));
          else if (gap !== whole.gap_mm) deeds.change({ gap_mm: gap });
        }}
        onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
      />
      mm
    </label>
  );
}
