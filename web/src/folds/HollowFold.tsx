import { useCallback, useMemo, useState } from "react";
import type { Vector3 } from "three";
import { useHollow } from "../api/boards";
import { problemOf, type Hole, type HollowRow, type Place, type Schemas } from "../api/client";
import { AtRates } from "./AtRates";
import { worthColumn } from "../patterns/WorthBar";
import type { Item } from "../stage/scene";
import { Board } from "../ui/Board";
import { useBoardKeys, useStage, useTake } from "./board";
import { Deciding, Heading, NotYet, RowName, Take } from "./Heading";
import { Creases, creaseLine, type Crease } from "./hollow/Creases";
import { Held } from "./hollow/Held";
import { Holes } from "./hollow/Holes";
import { Own } from "./hollow/Own";
import { Pull } from "./hollow/Pull";
import { COLUMNS, lineOf, nameOf, takeOf, wallOf } from "./hollow/rows";
import { useHeld } from "./hollow/useHeld";
import { useJudged } from "./hollow/useJudged";
import { foldOf, takenOf, type FoldProps } from "./types";
import { Waiting } from "./Waiting";
import { Why } from "./Why";

type Asked = Schemas["OwnHollow"];

export function HollowFold(props: FoldProps) {
  const held = foldOf(props.plan, "hollow");
  if (!held.ready)
    return <NotYet plan={props.plan} fold="hollow" line="Hollowing depends on the size." />;
  return <Hollowing key={`${props.plan.head}`} {...props} />;
}

const sameHoles = (a: readonly Hole[], b: readonly Hole[]) =>
  JSON.stringify(a) === JSON.stringify(b);

function Hollowing({ plan, intake, show, option, onOption, onLayer, settled }: FoldProps) {
  const held = foldOf(plan, "hollow");
  const [asked, setAsked] = useState<Asked | null>(held.asked?.own ?? null);
  const [plugs, setPlugs] = useState(!!held.asked?.plugs);
  const wishes = JSON.stringify({ own: asked });
  const board = useHollow(plan, true, wishes);
  const { take, busy } = useTake(plan, "hollow", board.key, settled, {
    fold: "hollow",
    own: asked,
    plugs,
  });
  const data = board.document ?? board.old;
  const taken = takenOf(held);
  const count = data?.choices.length ?? 0;
  const shown = Math.min(option ?? taken ?? data?.recommended ?? 0, Math.max(0, count - 1));
  const row = data?.choices.at(shown);
  const factor = foldOf(plan, "size").choice?.factor ?? 1;
  const made = useMemo(() => row?.hollow?.cavities.flatMap((c) => c.holes) ?? [], [row]);
  const [moved, setMoved] = useState<{ of: HollowRow; holes: Hole[] } | null>(null);
  const holes = moved && moved.of === row ? moved.holes : made;
  const edited = !sameHoles(holes, made);
  const [chosen, setChosen] = useState<number | null>(null);
  const [placing, setPlacing] = useState(false);
  const [crease, setCrease] = useState<Crease | null>(null);
  const seen = crease && row?.creases.includes(crease) ? crease : null;
  const dripping = useHeld(plan, intake);
  const judging = useJudged(plan, row, holes, dripping.turns);
  const judged = row?.hollow?.cavities.length ? (judging.data ?? null) : null;
  const set = (changed: Hole[]) => row && setMoved({ of: row, holes: changed });
  const onPick = useCallback(
    (p: Vector3, normal: Vector3) => {
      if (!row) return;
      const way = normal.clone().normalize().negate();
      const wide = holes[chosen ?? 0]?.diameter_mm ?? 2.5;
      const at = p.clone().multiplyScalar(factor);
      const hole: Hole = {
        x_mm: at.x,
        y_mm: at.y,
        z_mm: at.z,
        axis: [way.x, way.y, way.z],
        diameter_mm: wide,
        wall_mm: 0,
      };
      const changed =
        chosen == null ? [...holes, hole] : holes.map((h, i) => (i === chosen ? hole : h));
      setMoved({ of: row, holes: changed });
      setPlacing(false);
    },
    [row, holes, chosen, factor],
  );
  useBoardKeys(count, shown, onOption, () => board.document && !edited && take(shown));
  const items: Item[] = [
    // While a hole is placed the click is told on the figure's own surface, not in an old bore.
    {
      kind: "figure",
      sha: placing ? null : (row?.preview_sha ?? null),
      matrix: dripping.matrix ?? row?.matrix,
      thick: placing ? null : wallOf(row),
    },
    ...(row?.hollow
      ? [
          {
            kind: "holes" as const,
            rows: holes.map((h, i) => ({
              at: [h.x_mm / factor, h.y_mm / factor, h.z_mm / factor] as Place,
              axis: h.axis,
              radius: h.diameter_mm / 2 / factor,
              chosen: i === chosen,
            })),
          },
        ]
      : []),
    ...(seen && !dripping.matrix
      ? [
          {
            kind: "pin" as const,
            x: seen.place[0],
            y: seen.place[1],
            z: seen.place[2],
            text: creaseLine(seen),
            face: true,
          },
        ]
      : []),
    ...(placing ? [{ kind: "picker" as const, onPick }] : []),
    ...(dripping.onTurn ? [{ kind: "hand" as const, onTurn: dripping.onTurn }] : []),
  ];
  useStage(
    show,
    {
      items,
      foot: row
        ? { kind: "strip", data: row.strip }
        : { kind: "empty", text: "Walls are measured and every layer is read." },
      figures: { shown: taken === shown ? null : row?.numbers },
      stale: !!data && !board.document && !board.draft,
    },
    [
      row,
      holes,
      chosen,
      placing,
      onPick,
      seen,
      board.document,
      taken,
      shown,
      dripping.matrix,
      dripping.way,
    ],
  );
  return (
    <>
      <Heading
        title={held.question}
        line={
          data
            ? `Judged ${data.posed ? "in its pose" : "as it stands; the pose is open"}. ${data.why}`
            : "What lies deeper than a wall is cut out; holes, liquid and pull are judged."
        }
      />
      <Waiting of={board} what="Hollowing" />
      {data?.refused && (
        <p className="my-2 border-l-4 border-persimmon bg-paper px-3 py-1.5 text-[13.5px]">
          {data.refused.what} {data.refused.remedy}
        </p>
      )}
      {data && row && (
        <>
          <Board
            label="Solid and hollow"
            textHead="the figure"
            rows={data.choices}
            keyOf={(r) => `${r.wall_mm} ${r.lattice_mm} ${r.own}`}
            columns={[worthColumn((r) => r.worth, data.choices), ...COLUMNS]}
            text={(r, i) => (
              <RowName
                name={nameOf(r, data?.shell)}
                recommended={i === data.recommended}
                taken={i === taken}
                line={lineOf(r, data?.shell)}
              />
            )}
            shown={shown}
            onShown={(i) => {
              setChosen(null);
              setPlacing(false);
              onOption(i);
            }}
          />
          {judging.error && (
            <p role="alert" className="mt-2 text-[13px] text-persimmon">
              {problemOf(judging.error).message}
            </p>
          )}
          {!board.draft && row.hollow && row.wall_mm != null && row.hollow.cavities.length > 0 && (
            <div className="mt-2 flex flex-wrap gap-x-5 gap-y-2">
              <Holes
                holes={holes}
                chosen={chosen}
                placing={placing}
                judged={judged}
                onChosen={setChosen}
                onHoles={set}
                onPlacing={setPlacing}
              />
              <Held held={dripping} judged={judged} />
            </div>
          )}
          <Creases
            rows={row.creases}
            wall={row.wall_mm ?? 0}
            picked={seen}
            onPick={(c) => {
              setCrease(c);
              if (c) onLayer(Math.max(0, Math.floor(c.place[2] / row.strip.layer_height_mm)));
            }}
          />
          {row.pull && (
            <Pull
              data={row.pull}
              plan={plan.id}
              onLayer={onLayer}
              onRow={(i) => {
                setChosen(null);
                onOption(i);
              }}
            />
          )}
          <Own
            usual={data.usual_wall_mm}
            asked={asked}
            busy={board.waiting}
            onAsk={(wall, lattice) => {
              setAsked({ wall_mm: wall, lattice_mm: lattice, holes: null });
              onOption(count);
            }}
          />
          {!edited && row.holes > 0 && (row.wall_mm ?? 0) > 0 && (
            <label className="mt-3 flex items-center gap-2 text-[13px]">
              <input type="checkbox" checked={plugs} onChange={(e) => setPlugs(e.target.checked)} />
              Countersink the holes, with {row.holes === 1 ? "a plug" : `${row.holes} plugs`} to
              print beside it
            </label>
          )}
          <Why
            plan={plan}
            fold="hollow"
            wishes={wishes}
            board={board.document ? board.key : null}
            shown={shown}
            names={data.choices.map((r) => nameOf(r, data.shell))}
          />
          <Deciding
            said={
              edited ? (
                "The holes were changed: have the whole judged with them, then take it."
              ) : (
                <>
                  Liquid left inside cracks a figure or bursts it: drain, flush, dry and cure it
                  inside; solvents burn and irritate. Priors. <AtRates plan={plan} />
                </>
              )
            }
          >
            {edited && row.wall_mm != null ? (
              <button
                type="button"
                className="take"
                disabled={board.waiting}
                onClick={() => {
                  setAsked({
                    wall_mm: row.wall_mm ?? data.usual_wall_mm,
                    lattice_mm: row.lattice_mm,
                    holes: holes.map((h) => ({ ...h, axis: h.axis })),
                  });
                  onOption(data.choices.some((r) => r.own) ? count - 1 : count);
                }}
              >
                Judge with these holes
              </button>
            ) : (
              <Take may={!!board.document && !busy} onTake={() => take(shown)}>
                {takeOf(row)}
              </Take>
            )}
          </Deciding>
        </>
      )}
    </>
  );
}
