import { problemOf, type PlanState, type SupportsRow } from "../../api/client";
import { Choice } from "../../ui/Choice";
import { Again } from "./Again";
import { onRegion, type Mode, type useByHand } from "./useByHand";
import { saidOf, useWhatIf } from "./useWhatIf";

const MODES = [
  { value: "off", text: "as they are" },
  { value: "add", text: "put a tip" },
  { value: "move", text: "move one" },
  { value: "foot", text: "move its foot" },
  { value: "remove", text: "take one away" },
  { value: "clear", text: "clear a place" },
] as const satisfies readonly { value: Mode; text: string }[];
const REGIONS = [
  { value: "leave", text: "leave it" },
  { value: "carry", text: "carry it on one body" },
  { value: "gap", text: "end below it at" },
  { value: "density", text: "draw it at" },
] as const satisfies readonly { value: Mode; text: string }[];
/** Over more layers of air nothing is carried. */
const GAPS = [0, 1, 2, 3, 4, 5, 6];
/** Lines of a support's body, as shares of solid. */
const DENSITIES = [0.1, 0.15, 0.2, 0.3, 0.4, 0.6, 0.8];

export const REASONS: [string, string][] = [
  ["island", "under what starts in mid air"],
  ["overhang", "under slopes"],
  ["load", "for the pull"],
  ["hold", "where you marked it"],
  ["hand", "by hand"],
];

/** Why tips are there, counted. */
export function reasonsOf(row: SupportsRow): string {
  const many = (of: string) => row.spots.filter((s) => s.reason === of).length;
  return REASONS.map(([reason, words]) => [many(reason), words] as const)
    .filter(([n]) => n > 0)
    .map(([n, words]) => `${n} ${words}`)
    .join(", ");
}

const CLICKS: Record<Mode, string> = {
  off: "",
  add: "Click where the figure is to be held.",
  move: "Click beside the ring of a tip, then where it is to go.",
  foot: "Click beside the ring of a tip, then on the plate.",
  remove: "Click beside the ring of a tip.",
  clear: "Click: every tip within 5 mm of there goes.",
  leave: "Click beside a ring: all tips that stand close together there go.",
  carry: "Click beside a ring: one body carries what those tips do.",
  gap: "Click beside a ring: those tips end so far below.",
  density: "Click beside a ring: lines of what stands there lie so close.",
};

/** A gap in layers and mm. */
export const gapText = (layers: number, layerMm: number) =>
  layers === 0
    ? "no gap, it grips"
    : `${layers} layer${layers === 1 ? "" : "s"}, ${(layers * layerMm).toFixed(2)} mm`;

interface Props {
  plan: PlanState;
  row: SupportsRow;
  hand: ReturnType<typeof useByHand>;
  busy: boolean;
  onProve: () => void;
}

/** Tips put and taken away by a click on the figure, then proved as a row of their own. */
export function ByHand({ plan, row, hand, busy, onProve }: Props) {
  const { edits, mode } = hand;
  const whatIf = useWhatIf(plan, edits.length ? row : undefined, hand.gone, hand.put);
  const many = (op: string) => edits.filter((e) => e.op === op).length;
  const told = [
    [many("add"), "put"],
    [many("remove"), "taken away"],
    [many("foot"), many("foot") === 1 ? "foot moved" : "feet moved"],
    [many("leave"), "left to itself"],
    [many("carry"), "on one body"],
    [many("gap"), many("gap") === 1 ? "gap changed" : "gaps changed"],
    [many("density"), many("density") === 1 ? "density changed" : "densities changed"],
  ] as const;
  const short = row.spots.some((s) => s.gap_mm > 0);
  return (
    <section aria-label="By hand" className="mt-3 text-[13px]">
      {row.spots.length > 0 && <p className="mb-1 text-faded">Tips: {reasonsOf(row)}.</p>}
      <div className="flex flex-wrap items-center gap-x-4 gap-y-1.5">
        <Choice<Mode> label="By hand" small value={mode} options={MODES} onValue={hand.setMode} />
        {row.spots.length > 0 && (
          <span className="flex items-center gap-x-2">
            A region:
            <Choice<Mode>
              label="A region of tips"
              small
              value={mode}
              options={REGIONS.filter((r) => short || r.value === "leave")}
              onValue={hand.setMode}
            />
            {short && (
              <>
                <select
                  aria-label="Layers of air"
                  className="field py-0.5"
                  value={hand.gap}
                  onChange={(e) => {
                    hand.setGap(Number(e.target.value));
                    hand.setMode("gap");
                  }}
                >
                  {GAPS.map((n) => (
                    <option key={n} value={n}>
                      {gapText(n, row.layer_height_mm)}
                    </option>
                  ))}
                </select>
                <select
                  aria-label="Density of its lines"
                  className="field py-0.5"
                  value={hand.density}
                  onChange={(e) => {
                    hand.setDensity(Number(e.target.value));
                    hand.setMode("density");
                  }}
                >
                  {DENSITIES.map((n) => (
                    <option key={n} value={n}>
                      {Math.round(100 * n)} % of solid
                    </option>
                  ))}
                </select>
              </>
            )}
          </span>
        )}
        {mode !== "off" && (
          <span aria-live="polite">
            {hand.far
              ? "No tip near that place."
              : hand.held != null
                ? `Now click where ${mode === "foot" ? "it is to stand" : "it is to go"}.`
                : edits.length
                  ? told
                      .filter(([n]) => n > 0)
                      .map(([n, what]) => `${n} ${what}`)
                      .join(", ")
                  : CLICKS[mode]}
          </span>
        )}
        {edits.length > 0 && (
          <>
            <button type="button" className="quiet px-2 text-[12.5px]" onClick={hand.back}>
              Take the last back
            </button>
            <button
              type="button"
              className="take px-3 py-1 text-[13px]"
              disabled={busy}
              onClick={onProve}
            >
              Prove it so
            </button>
          </>
        )}
      </div>
      <Again plan={plan} row={row} hand={hand} />
      {edits.length > 0 && !edits.every((e) => onRegion(e.op as Mode) && e.op !== "leave") && (
        <p
          className={`mt-1 ${whatIf.data?.worse.length ? "text-persimmon" : "text-moss"}`}
          aria-live="polite"
        >
          {whatIf.error
            ? problemOf(whatIf.error).message
            : whatIf.data
              ? saidOf(whatIf.data)
              : "What it would weaken is being read."}
        </p>
      )}
    </section>
  );
}
