import { useState } from "react";
import { useWalls } from "../api/boards";
import type { Schemas, WallsBoard, WallsRow } from "../api/client";
import { AtRates } from "./AtRates";
import { worthColumn } from "../patterns/WorthBar";
import type { Item } from "../stage/scene";
import { hm } from "../shell/format";
import { Board, type Column } from "../ui/Board";
import { useBoardKeys, useStage, useTake } from "./board";
import { Deciding, Heading, NotYet, RowName, Take } from "./Heading";
import { foldOf, takenOf, type FoldProps } from "./types";
import { Waiting } from "./Waiting";
import { Why } from "./Why";
import { Own } from "./walls/Own";

type Asked = Schemas["OwnWalls"];
const two = (first: string, second: string) => (
  <>
    {first}
    <br />
    {second}
  </>
);

const COLUMNS: Column<WallsRow>[] = [
  {
    id: "open",
    head: two("open", "mm²"),
    name: "mm² open",
    cell: (r) => (
      <span className={r.open_mm2 >= 2 ? "text-persimmon" : ""}>{r.open_mm2.toFixed(0)}</span>
    ),
  },
  {
    id: "sags",
    head: two("roof sags", "%"),
    name: "roof sags, %",
    from: 560,
    cell: (r) => (r.roofed_mm2 ? Math.round(r.roof_opens * 100) : ""),
  },
  {
    id: "bears",
    head: two("weakest", "bears N"),
    name: "weakest bears, N",
    from: 620,
    cell: (r) => (r.bears_n == null ? "" : newtons(r.bears_n)),
  },
  { id: "grams", head: two("grams", "bare"), name: "grams", cell: (r) => r.mass_g.toFixed(1) },
  { id: "time", head: two("time", "h:min"), name: "time", cell: (r) => hm(r.numbers.time_s) },
];

const newtons = (n: number) => (n >= 10 ? n.toFixed(0) : n >= 0.1 ? n.toFixed(1) : "under 0.1");

function rowLine(r: WallsRow): string {
  const lines = `${r.perimeters} line${r.perimeters === 1 ? "" : "s"}`;
  const inside = r.infill >= 1 ? "solid inside" : `${Math.round(r.infill * 100)} % inside`;
  return `${lines}, roofs of ${r.roof_mm} mm, ${inside}`;
}

/** Which slopes stay open, in degrees above the horizontal, and what closes them. */
function slopesLine(row: WallsRow, board: WallsBoard): string {
  if (row.open_mm2 < 2) return "Every slope is closed by perimeters or roofs.";
  const [low, high] = row.open_lean.map((lean) => (Math.acos(Math.min(1, lean)) * 180) / Math.PI);
  const much = `${row.open_mm2.toFixed(0)} mm² that rise ${high.toFixed(1)} to ${low.toFixed(1)}°`;
  const more = board.cures && row.perimeters < board.cures;
  const cure = more ? ` ${board.cures} perimeters close most of them.` : "";
  return `${much} stay open between perimeters and roofs.${cure}`;
}

function weakLine(row: WallsRow): string {
  const weak = row.weakest;
  if (!weak || row.bears_n == null) return "";
  const solid = Math.round((row.of_solid ?? 1) * 100);
  const how = solid >= 99 ? "solid with any walls" : `${solid} % of what it would bear solid`;
  const [wide, at, tall] = [weak.width_mm.toFixed(1), weak.z_mm.toFixed(0), weak.carries_mm];
  const breaks = `${newtons(row.bears_n)} N at its end break it, ${how}.`;
  return ` The weakest part is ${wide} mm at ${at} mm and carries ${tall.toFixed(0)} mm: ${breaks}`;
}

export function WallsFold(props: FoldProps) {
  const held = foldOf(props.plan, "walls");
  if (!held.ready)
    return <NotYet plan={props.plan} fold="walls" line="Walls depend on the pose." />;
  return <Walling key={`${props.plan.head}`} {...props} />;
}

function Walling({ plan, show, option, onOption, settled }: FoldProps) {
  const held = foldOf(plan, "walls");
  const [asked, setAsked] = useState<Asked | null>(held.asked?.own ?? null);
  const wishes = JSON.stringify({ own: asked });
  const board = useWalls(plan, true, wishes);
  const { take, busy } = useTake(plan, "walls", board.key, settled, { fold: "walls", own: asked });
  const data = board.document ?? board.old;
  const taken = takenOf(held);
  const count = data?.choices.length ?? 0;
  const shown = Math.min(option ?? taken ?? data?.recommended ?? 0, Math.max(0, count - 1));
  const row = data?.choices.at(shown);
  useBoardKeys(count, shown, onOption, () => board.document && take(shown));
  const weak = row?.weakest;
  const items: Item[] = [
    { kind: "figure", sha: null, matrix: data?.matrix, gap: row?.open_lean },
    ...(weak
      ? [{ kind: "pin" as const, x: weak.x_mm, y: weak.y_mm, z: weak.z_mm, text: "breaks first" }]
      : []),
  ];
  useStage(
    show,
    {
      items,
      foot: row
        ? { kind: "strip", data: row.strip }
        : { kind: "empty", text: "Every layer is read, and every slope." },
      figures: { shown: taken === shown ? null : row?.numbers },
      stale: !!data && !board.document && !board.draft,
    },
    [row, board.document, taken, shown],
  );
  return (
    <>
      <Heading
        title={held.question}
        line={
          data && row
            ? slopesLine(row, data) + weakLine(row)
            : "What perimeters and roofs leave open, and what the weakest part bears."
        }
      />
      <Waiting of={board} what="Reading slopes" />
      {data && row && (
        <>
          <Board
            label="Walls"
            textHead="walls"
            rows={data.choices}
            keyOf={(r) => `${r.name} ${r.perimeters} ${r.roof_mm} ${r.infill}`}
            columns={[worthColumn((r) => r.worth, data.choices), ...COLUMNS]}
            text={(r, i) => (
              <RowName
                name={r.name}
                recommended={i === data.recommended}
                taken={i === taken}
                line={rowLine(r)}
              />
            )}
            shown={shown}
            onShown={onOption}
          />
          <Own
            usual={data.choices[0]}
            busy={board.waiting}
            onAsk={(own) => {
              setAsked(own);
              onOption(data.choices.some((r) => r.own) ? count - 1 : count);
            }}
          />
          <Why
            plan={plan}
            fold="walls"
            wishes={wishes}
            board={board.document ? board.key : null}
            shown={shown}
            names={data.choices.map((r) => r.name)}
          />
          <Deciding
            said={
              <>
                {data.why} At {data.layer_height_mm} mm layers; the dye "gaps" shows where. Priors.{" "}
                <AtRates plan={plan} />
              </>
            }
          >
            <Take may={!!board.document && !busy} onTake={() => take(shown)}>
              Take these walls
            </Take>
          </Deciding>
        </>
      )}
    </>
  );
}
