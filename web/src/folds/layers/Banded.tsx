import type { LayersBoard, LayersRow } from "../../api/client";
import { hm } from "../../shell/format";
import { Slide } from "../../ui/Slide";

/** The heights of a row: one, or from the least to the most of its bands. */
export function heightsOf({ height, bands }: LayersRow): string {
  if (!bands) return `${height.layer_height_mm} mm`;
  const heights = bands.runs.map(([h]) => h);
  return `${Math.min(...heights)} to ${Math.max(...heights)} mm`;
}

/** Where the rows in bands are: their numbers on the board. */
export const bandedOf = (board: LayersBoard): number[] =>
  board.choices.flatMap((row, i) => (row.bands ? [i] : []));

/**
 * Which rows are shown: those of one height, and of those in bands the one that is looked at,
 * recommended, or in the middle.
 */
export function visibleOf(board: LayersBoard, option: number): number[] {
  const banded = bandedOf(board);
  const plain = board.choices.flatMap((row, i) => (row.bands ? [] : [i]));
  if (!banded.length) return plain;
  const one =
    [option, board.recommended].find((i) => banded.includes(i)) ??
    banded[Math.floor(banded.length / 2)];
  return [...plain, one];
}

interface Props {
  board: LayersBoard;
  shown: number;
  onOption: (o: number) => void;
}

/** The dial of the bands: how high a step may be where layers are thick. */
export function Banded({ board, shown, onOption }: Props) {
  const banded = bandedOf(board);
  if (!banded.length) return null;
  const one = visibleOf(board, shown).at(-1) ?? banded[0];
  const row = board.choices[one];
  const saved = board.choices[0].height.time_s - row.height.time_s;
  const limit = (i: number) => (board.choices[banded[i]].bands?.limit_mm ?? 0) * 1000;
  const at = banded.indexOf(one);
  return (
    <section aria-label="Bands" className="mt-2 text-[13px]">
      <div className="flex max-w-[680px] flex-wrap items-center gap-x-3">
        <span>In bands, thick where steps keep to</span>
        {banded.length > 1 && (
          <span className="flex w-44">
            <Slide
              label="Steps accepted in bands"
              value={at}
              min={0}
              max={banded.length - 1}
              step={1}
              said={`${limit(at).toFixed(0)} micrometres`}
              onValue={(v) => onOption(banded[v])}
            />
          </span>
        )}
        <b>{limit(at).toFixed(0)} µm</b>
        <span>
          {hm(row.height.time_s)}, {hm(Math.abs(saved))} {saved >= 0 ? "less" : "more"} than{" "}
          {board.choices[0].height.layer_height_mm} mm throughout
        </span>
      </div>
      <p className="text-faded">
        Thick only where nothing begins and nothing reaches out too far; held and proved as{" "}
        {board.choices[0].height.layer_height_mm} mm. The ribbon below shows where.
      </p>
    </section>
  );
}

const USES = { terrain: "terrain", tabletop: "the tabletop", display: "display" } as const;

/** What others would take, and what steps worst. */
export function Purposes({ board, shown, onOption }: Props) {
  return (
    <section aria-label="What it is for" className="mt-2 text-[13px]">
      <p>
        {board.purposes.map((p) => (
          <span key={p.name} className="mr-4 inline-block">
            For {USES[p.name]}{" "}
            <button
              type="button"
              className={`underline ${p.option === shown ? "text-ink" : "text-indigo"}`}
              aria-pressed={p.option === shown}
              title={p.said}
              onClick={() => onOption(p.option)}
            >
              {heightsOf(board.choices[p.option])}
              {board.choices[p.option].bands &&
                `, steps within ${((board.choices[p.option].bands?.limit_mm ?? 0) * 1000).toFixed(0)} µm`}
            </button>
          </span>
        ))}
        <span className="text-faded">by what steps count there (priors).</span>
      </p>
      {board.level.said.map((line) => (
        <p key={line}>{line}</p>
      ))}
    </section>
  );
}
