import { useLayers } from "../api/boards";
import type { LayersBoard, LayersRow } from "../api/client";
import type { Thick } from "../stage/scene";
import { ChanceBar } from "../patterns/Patterns";
import { count, hm, micron } from "../shell/format";
import { AtRates } from "./AtRates";
import { worthColumn } from "../patterns/WorthBar";
import { Board, type Column } from "../ui/Board";
import { useBoardKeys, useStage, useTake } from "./board";
import { Deciding, Heading, NotYet, RowName, Take } from "./Heading";
import { Banded, heightsOf, Purposes, visibleOf } from "./layers/Banded";
import { Batch } from "./layers/Batch";
import { ByLog } from "./layers/ByLog";
import { Curve } from "./layers/Curve";
import { Elsewhere } from "./layers/Elsewhere";
import { Profiles } from "./layers/Profiles";
import { useClose } from "./layers/useClose";
import { foldOf, takenOf, type FoldProps } from "./types";
import { Waiting } from "./Waiting";
import { Why } from "./Why";

/** Steps on a slope of this figure, drawn to one scale for all heights. */
function Steps({ row, coarsest }: { row: LayersRow; coarsest: number }) {
  const { layer_height_mm, cusp_mm } = row.height;
  const h = (layer_height_mm * 15) / coarsest;
  const slope = Math.min(0.995, cusp_mm.p95 / layer_height_mm || 0);
  const run = Math.min(60, h * Math.max(0.25, slope / Math.sqrt(1 - slope * slope)));
  const stairs = Math.max(1, Math.floor(Math.min(30 / h, 88 / run)));
  const path = `M2 33${`v${-h}h${run}`.repeat(stairs)}V33z`;
  return (
    <svg width="94" height="36" aria-hidden>
      <path d={path} fill="var(--section)" stroke="var(--indigo)" strokeWidth="1" />
    </svg>
  );
}

function columnsOf(filament: boolean, coarsest: number): Column<LayersRow>[] {
  const columns: Column<LayersRow>[] = [
    {
      id: "drawn",
      head: (
        <>
          steps drawn
          <br />
          to one scale
        </>
      ),
      width: 104,
      from: 860,
      cell: (c) => !c.bands && <Steps row={c} coarsest={coarsest} />,
    },
    {
      id: "median",
      head: (
        <>
          steps µm
          <br />
          median
        </>
      ),
      name: "median µm",
      from: 560,
      cell: (c) => (c.height.cusp_mm.median * 1000).toFixed(0),
    },
    {
      id: "p95",
      head: (
        <>
          steps µm
          <br />
          95 %
        </>
      ),
      cell: (c) => (c.height.cusp_mm.p95 * 1000).toFixed(0),
    },
    {
      id: "layers",
      head: "layers",
      name: "layers",
      from: 520,
      cell: (c) => count(c.height.layers),
    },
    {
      id: "time",
      head: (
        <>
          time
          <br />
          h:min
        </>
      ),
      cell: (c) => hm(c.height.time_s),
    },
    {
      id: "stuff",
      head: filament ? "grams" : "ml",
      name: filament ? "grams" : "ml",
      from: 480,
      cell: (c) => (filament ? c.height.material_g.toFixed(0) : c.height.material_ml.toFixed(1)),
    },
    {
      id: "lost",
      head: (
        <>
          not drawn
          <br />%
        </>
      ),
      name: "of what is seen not drawn %",
      from: 700,
      cell: (c) => ((c.height.lost_share ?? 0) * 100).toFixed(1),
    },
    { id: "tips", head: "tips", name: "tips", from: 700, cell: (c) => c.held.tip_count },
    { id: "cost", head: "cost", name: "cost", from: 660, cell: (c) => c.height.cost.toFixed(2) },
    {
      id: "risk",
      head: (
        <>
          risk
          <br />%
        </>
      ),
      cell: (c) => <ChanceBar chance={c.height.risk} />,
    },
  ];
  if (filament)
    columns.splice(-1, 0, {
      id: "blemishes",
      head: (
        <>
          blemishes
          <br />
          expected
        </>
      ),
      name: "blemishes",
      from: 640,
      cell: (c) => c.height.blemishes.toFixed(1),
    });
  else
    columns.splice(-1, 0, {
      id: "blur",
      head: (
        <>
          blur below
          <br />
          µm, prior
        </>
      ),
      name: "blur of downward faces µm",
      from: 640,
      cell: (c) => (c.height.blur_mm * 1000).toFixed(0),
    });
  return columns;
}

export function LayersFold({ plan, show, option, onOption, settled }: FoldProps) {
  const held = foldOf(plan, "layers");
  const board = useLayers(plan, held.ready);
  const { take, busy } = useTake(plan, "layers", board.key, settled);
  const data = board.document ?? board.old;
  const taken = takenOf(held);
  const all = data?.choices ?? [];
  const shown = Math.min(option ?? taken ?? data?.recommended ?? 0, Math.max(0, all.length - 1));
  const row = all.at(shown);
  const visible = data ? visibleOf(data, shown) : [];
  const rows = visible.map((i) => all[i]);
  const plain = rows.filter((r) => !r.bands);
  const place = visible.indexOf(shown);
  const onRow = (i: number) => onOption(visible[i]);
  const filament = row ? row.height.time_is !== "formula" : false;
  const close = useClose(plan, data);
  const factor = foldOf(plan, "size").choice?.factor ?? 1;
  const there = close.profile?.at;
  useBoardKeys(rows.length, place, onRow, () => board.document && take(shown));
  useStage(
    show,
    {
      items: [
        { kind: "figure", sha: null, matrix: row?.held.matrix, thick: detailOf(data) },
        {
          kind: "picker",
          onPick: (p) => {
            close.look([p.x * factor, p.y * factor, p.z * factor]);
          },
        },
        ...(there
          ? [{ kind: "pin" as const, x: there[0], y: there[1], z: there[2], text: "magnified" }]
          : []),
        ...(row?.held.supports_sha
          ? [{ kind: "supports" as const, sha: row.held.supports_sha }]
          : []),
      ],
      foot: row
        ? { kind: "strip", data: row.held.strip }
        : { kind: "empty", text: "The figure is being cut at four heights." },
      figures: { shown: taken === shown ? null : row?.held.numbers },
      stale: !!data && !board.document && !board.draft,
    },
    [row, board.document, taken, shown, there?.join()],
  );
  if (!held.ready)
    return (
      <NotYet plan={plan} fold="layers" line="Layer height depends on the supported figure." />
    );
  return (
    <>
      <Heading
        title={held.question}
        line={data ? data.why : "The supported figure is cut at four heights."}
      />
      <Waiting of={board} what="Comparing layer heights" />
      {data && row && (
        <>
          <Board
            label="Layer heights"
            textHead="layer height"
            rows={rows}
            keyOf={(c) => (c.bands ? "bands" : String(c.height.layer_height_mm))}
            columns={[
              worthColumn((c) => c.held.worth, rows),
              ...columnsOf(filament, plain[plain.length - 1].height.layer_height_mm),
            ]}
            text={(c, i) => (
              <RowName
                name={heightsOf(c)}
                recommended={visible[i] === data.recommended}
                taken={visible[i] === taken}
                line={stepOf(c)}
              />
            )}
            shown={place}
            onShown={onRow}
          />
          <Banded board={data} shown={shown} onOption={onOption} />
          <Purposes board={data} shown={shown} onOption={onOption} />
          <Profiles board={data} close={close} shown={shown} onOption={onOption} />
          <Curve
            rows={plain}
            apart={rows.find((r) => r.bands)}
            shown={place}
            best={visible.indexOf(data.recommended)}
            onOption={onRow}
          />
          <Batch batch={data.batches[shown]} />
          <Elsewhere
            key={row.height.layer_height_mm}
            plan={plan}
            height={row.height.layer_height_mm}
          />
          <ByLog plan={plan} seconds={row.height.time_s} />
          <Why
            plan={plan}
            fold="layers"
            board={board.document ? board.key : null}
            shown={shown}
            names={data.choices.map((c) => heightsOf(c))}
          />
          <Deciding
            said={
              <>
                {filament
                  ? "Time is that of the planned path, of every few layers. Blemishes and risk are priors."
                  : "Time follows the machine's formula. Risk is a prior."}{" "}
                <AtRates plan={plan} />
              </>
            }
          >
            <Take may={!!board.document && !busy} onTake={() => take(shown)}>
              Take this height
            </Take>
          </Deciding>
        </>
      )}
    </>
  );
}

/** How thick it is across a layer as a dye: densely where no line is so thin, openly where two lines are thicker. */
const detailOf = (data: LayersBoard | null | undefined): Thick | null =>
  data
    ? { sha: data.thick_sha, limits: [data.draws_mm, 2 * data.draws_mm], called: "detail" }
    : null;

function stepOf({ height, bands }: LayersRow): string {
  if (bands) return `in bands, steps within ${micron(bands.limit_mm)}`;
  if (height.step_kind === "none") return "";
  const rounding = height.rounding_mm > 1e-6 ? `, rounded by ${micron(height.rounding_mm)}` : "";
  return `${height.step_kind} step of the motor${rounding}`;
}
