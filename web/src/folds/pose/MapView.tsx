import { useState } from "react";
import type { Down, PoseBoard, Ranked, Weighed } from "../../api/client";
import { worthSaid } from "../../patterns/WorthBar";
import { Pick } from "../../ui/Pick";
import type { Frames } from "../size/stood";
import { PoseMap } from "./PoseMap";
import { Rates, type Wish } from "./Rates";
import { digits, poseName, LARGE, UNIT, WEIGHTS } from "./words";

interface Props {
  data: PoseBoard;
  frames: Frames;
  ranked: Ranked | null;
  shown: number;
  hand: Down | null;
  said: Weighed | null;
  process: string;
  wish: Wish;
  waiting: boolean;
  onWish: (wish: Wish) => void;
  onPick: (d: Down) => void;
  onPin: (i: number) => void;
  onHover: (i: number | null) => void;
  onHand: () => void;
}

type Aims = Record<string, number>;

interface Pinned {
  down: Down;
  aims: Aims;
}

/** The rows of the board, or what another wish would put there. */
function rowsOf(data: PoseBoard, ranked: Ranked | null): { rows: Pinned[]; recommended: number } {
  if (ranked) return { rows: ranked.candidates, recommended: ranked.recommended };
  const rows = data.candidates.map(({ pose }) => ({ down: pose.down, aims: aimsOf(pose.metrics) }));
  return { rows, recommended: data.recommended };
}

const aimsOf = (metrics: PoseBoard["candidates"][number]["pose"]["metrics"]): Aims =>
  Object.fromEntries(
    Object.entries(metrics).filter((e): e is [string, number] => typeof e[1] === "number"),
  );

/** All directions at once: the map, the rates, and what the way shown costs. */
export function MapView(props: Props) {
  const {
    data,
    frames,
    ranked,
    shown,
    hand,
    said,
    process,
    wish,
    onWish,
    onPick,
    onPin,
    onHover,
    onHand,
  } = props;
  const [dyed, setDyed] = useState("wish");
  const [hovered, setHovered] = useState<number | null>(null);
  const { map } = data;
  const weights = WEIGHTS[process];
  const { rows, recommended } = rowsOf(data, ranked);
  const here = rows[Math.min(shown, rows.length - 1)];
  const best = rows[recommended].aims;
  const under = (i: number): Pinned => ({
    down: map.down[i],
    aims: Object.fromEntries(Object.entries(map.aims).map(([k, v]) => [k, v[i]])),
  });
  const told: { down: Down; aims: Aims | null } = hand
    ? { down: hand, aims: said?.aims ?? null }
    : hovered != null
      ? under(hovered)
      : here;
  return (
    <div className="flex flex-wrap gap-x-6 gap-y-1.5">
      <div className="w-[388px] max-w-full">
        <div className="mb-1.5 flex items-center gap-2 text-[13px]">
          <span className="text-faded">Dyed by</span>
          <Pick
            label="Dyed by"
            value={dyed}
            options={[
              { value: "wish", text: "worth at your rates" },
              ...Object.keys(map.aims).map((aim) => ({ value: aim, text: map.names[aim] })),
            ]}
            onValue={setDyed}
            className="min-h-[28px] py-0.5"
          />
          <Scale />
        </div>
        <PoseMap
          map={map}
          values={dyed === "wish" ? (ranked?.merit ?? map.merit) : map.aims[dyed]}
          better={LARGE.has(dyed) ? "large" : "small"}
          front={ranked?.front ?? map.front}
          frames={frames}
          pins={rows.map((c, i) => ({
            down: frames.own(c.down),
            text: poseName(frames.own(c.down)),
            recommended: i === recommended,
          }))}
          shown={hand ? -1 : shown}
          hand={hand && frames.own(hand)}
          onPick={(d) => onPick(frames.file(d))}
          onPin={onPin}
          onHover={(i) => {
            setHovered(i);
            onHover(i);
          }}
        />
        <p className="mt-0.5 text-[12px] leading-snug text-faded">
          <svg width="9" height="9" aria-hidden className="mr-1 inline">
            <path d="M4.5 .8l3.6 3.7-3.6 3.7L.9 4.5z" fill="var(--moss)" />
          </svg>
          no other beats it: {(ranked?.front ?? map.front).length} of {map.down.length}. Up: leans
          back; down: forward.
        </p>
      </div>
      <section aria-live="polite" className="min-w-[240px] flex-1">
        <h2 className="text-[17px]">{poseName(frames.own(told.down))}</h2>
        <p className="text-[12.5px] text-faded">{standingOf(props, hovered)}</p>
        {said?.worth && hand && <p className="text-[12.5px]">{worthSaid(said.worth)}</p>}
        {told.aims && <Costs weights={weights} names={map.names} told={told.aims} best={best} />}
        {hand ? (
          <WhyNot said={said} />
        ) : (
          <p className="mt-1.5">
            <button type="button" className="quiet px-2.5 py-0.5" onClick={onHand}>
              Turn it by hand
            </button>
          </p>
        )}
      </section>
      <Rates
        wish={wish}
        held={ranked?.wish ?? map.wish}
        unmet={ranked?.unmet ?? data.unmet}
        onWish={onWish}
      />
    </div>
  );
}

function standingOf({ hand, ranked, waiting, shown }: Props, hovered: number | null): string {
  if (hand) return "Turned by hand. Beside the recommended one:";
  if (hovered != null) return "Under the pointer. Click to take it into the hand.";
  if (ranked) return "Ranked anew, at once; its layers are not read yet.";
  return waiting ? "Its layers are being read." : `Row ${shown + 1} of the board.`;
}

interface CostsProps {
  weights: [string, string][];
  names: Record<string, string>;
  told: Aims;
  best: Aims;
}

/** What a way costs, beside the recommended one. */
function Costs({ weights, names, told, best }: CostsProps) {
  return (
    <table className="mt-1 w-full text-[13px]">
      <tbody>
        {weights.map(([aim]) => {
          const far = told[aim] - best[aim];
          const alike = Math.abs(far) < 1e-6 + 0.005 * Math.abs(best[aim]);
          const worse = far > 0 !== LARGE.has(aim);
          const tone = alike ? "text-faded" : worse ? "text-persimmon" : "text-moss";
          return (
            <tr key={aim} className="border-b border-thread/60">
              <td className="py-[1px] text-faded">{names[aim]}</td>
              <td className="text-right">
                {digits(aim, told[aim])} {UNIT[aim]}
              </td>
              <td className={`w-[76px] text-right text-[12px] ${tone}`}>
                {alike ? "as best" : `${far > 0 ? "▲" : "▽"} ${digits(aim, Math.abs(far))}`}
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

const MOST_REASONS = 4;

function WhyNot({ said }: { said: Weighed | null }) {
  const line = (text: string, bad: boolean) => (
    <li key={text} className={bad ? "text-persimmon" : "text-moss"}>
      {text}
    </li>
  );
  return (
    <>
      <h3 className="mt-1.5 text-[15px]">Why not this way?</h3>
      <ul className="text-[12.5px] leading-snug">
        {said?.why.slice(0, MOST_REASONS).map((w) => line(w, w.includes("worse")))}
        {said && !said.why.length && <li>It is the recommended way, within what can be told.</li>}
        {said && !said.fits && line("Too tall for the printer this way.", true)}
      </ul>
    </>
  );
}

const SHADES = 6;

function Scale() {
  return (
    <span className="ml-auto flex items-center gap-1 text-[12px] text-faded">
      good
      <svg width="60" height="11" aria-hidden>
        {Array.from({ length: SHADES }, (_, i) => (
          <rect
            key={i}
            x={i * 10}
            width="10"
            height="11"
            fill={`color-mix(in srgb, #20375f ${i * 18}%, #faf7ef)`}
            stroke="var(--thread)"
            strokeWidth="0.4"
          />
        ))}
      </svg>
      bad
    </span>
  );
}
