import { problemOf, type LayersBoard, type Place, type Profile } from "../../api/client";
import { micron } from "../../shell/format";
import { useWidth } from "../../ui/useWidth";

const GAP = 10;
const MOST = 176;

interface Props {
  board: LayersBoard;
  close: {
    at: Place | null;
    asked: Place | null;
    profile: Profile | undefined;
    problem: unknown;
    look: (place: Place) => void;
  };
  shown: number;
  onOption: (o: number) => void;
}

const same = (a: Place, b: Place) => a.every((v, i) => Math.abs(v - b[i]) < 0.006);

/** What the steps of a height are at the place, in words. */
export function stepsOf({ cusp_mm, run_mm }: Profile["stairs"][number]): string {
  if (cusp_mm < 5e-4) return "no steps: upright";
  if (run_mm == null) return "level: no steps";
  return `${micron(cusp_mm)} high, ${run_mm < 0.1 ? micron(run_mm) : `${run_mm.toFixed(2)} mm`} wide`;
}

/** The figure's outline at one place, and what each height's layers make of it, all to one scale. */
export function Profiles({ board, close, shown, onOption }: Props) {
  const { ref, width } = useWidth<HTMLDivElement>(700);
  const { profile, at, asked } = close;
  const many = Math.max(1, board.choices.filter((c) => !c.bands).length);
  const side = Math.min(MOST, (width - GAP * (many - 1)) / many);
  return (
    <section aria-label="Drawn to scale" className="mt-3">
      <h3 className="font-display text-[17px]">Its outline under a magnifier</h3>
      <p className="mb-1.5 text-[13px] text-faded">
        Click the figure to look there, or at{" "}
        {board.places.map((p, i) => (
          <span key={p.called}>
            {i > 0 && ", "}
            <button
              type="button"
              className={`underline ${at && same(at, p.at) ? "text-ink" : "text-indigo"}`}
              aria-pressed={!!at && same(at, p.at)}
              onClick={() => {
                close.look(p.at);
              }}
            >
              {p.called}
            </button>
          </span>
        ))}
        {asked && !board.places.some((p) => same(asked, p.at)) && " (now where you pointed)"}.
      </p>
      {!!close.problem && (
        <p role="alert" className="text-persimmon">
          {problemOf(close.problem).message}
        </p>
      )}
      <div ref={ref} className="flex" style={{ gap: GAP, minHeight: side }}>
        {profile?.stairs.map((stair, i) => (
          <figure key={stair.layer_height_mm} style={{ width: side }}>
            <button
              type="button"
              className={`block border ${i === shown ? "border-indigo" : "border-thread"}`}
              aria-label={`${stair.layer_height_mm} mm: ${stepsOf(stair)}`}
              aria-pressed={i === shown}
              onClick={() => {
                onOption(i);
              }}
            >
              <Window profile={profile} stair={stair} side={side - 2} />
            </button>
            <figcaption className="text-[12px] leading-tight">
              <b>{stair.layer_height_mm} mm</b>
              <br />
              {stepsOf(stair)}
            </figcaption>
          </figure>
        ))}
      </div>
      {profile && (
        <p className="mt-1 text-[12px] text-faded">
          {2 * profile.window_mm} mm across. The line is the sculpt; the bar is{" "}
          {profile.round ? "a line of the nozzle" : "a pixel of the screen"},{" "}
          {profile.draws_mm.toFixed(3)} mm.
        </p>
      )}
    </section>
  );
}

function Window({
  profile,
  stair,
  side,
}: {
  profile: Profile;
  stair: Profile["stairs"][number];
  side: number;
}) {
  const w = profile.window_mm;
  const k = side / (2 * w);
  const x = (u: number) => (u + w) * k;
  const y = (z: number) => (w - z) * k;
  const round = profile.round ? stair.layer_height_mm / 2 : 0;
  return (
    <svg width={side} height={side} aria-hidden className="block bg-paper">
      <g
        fill="var(--section)"
        stroke="var(--indigo)"
        strokeWidth={Math.min(0.5, stair.layer_height_mm * k * 0.09)}
      >
        {stair.rows.map(([z0, z1, a, b], i) => (
          <rect
            key={i}
            x={x(a) - (a <= -w ? 6 : 0)}
            width={(b - a) * k + (a <= -w ? 6 : 0) + (b >= w ? 6 : 0)}
            y={y(z1)}
            height={(z1 - z0) * k}
            rx={Math.min(round * k, ((b - a) * k) / 2)}
          />
        ))}
      </g>
      <path
        d={profile.outline.map(([a, z, b, v]) => `M${x(a)} ${y(z)}L${x(b)} ${y(v)}`).join("")}
        stroke="var(--persimmon)"
        strokeWidth="1.2"
        strokeLinecap="round"
        fill="none"
      />
      <path
        d={`M6 ${side - 7}h${Math.max(profile.draws_mm * k, 1)}`}
        stroke="var(--ink)"
        strokeWidth="3"
      />
    </svg>
  );
}
