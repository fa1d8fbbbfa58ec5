import { useState } from "react";
import { useSearchParams } from "react-router";
import { useSupports } from "../api/boards";
import type { SupportsRow } from "../api/client";
import { ChanceBar } from "../patterns/Patterns";
import { hm } from "../shell/format";
import { AtRates } from "./AtRates";
import { worthColumn } from "../patterns/WorthBar";
import { Board, type Column } from "../ui/Board";
import { useBoardKeys, useStage, useTake } from "./board";
import { Deciding, Heading, NotYet, RowName, Take } from "./Heading";
import { ByHand } from "./supports/ByHand";
import { OneByOne } from "./supports/OneByOne";
import { Findings, MayBreak } from "./supports/Findings";
import { useByHand, type Asked } from "./supports/useByHand";
import { withMore } from "./supports/put";
import { nameOf, rowLine } from "./supports/names";
import { onRaft, RaftPick } from "./supports/RaftPick";
import { wishesOf } from "./supports/wishes";
import { RiskDial } from "./supports/RiskDial";
import { TwoSets } from "./supports/TwoSets";
import { marginsOf } from "./supports/margins";
import { foldOf, takenOf, type FoldProps } from "./types";
import { Waiting } from "./Waiting";
import { Why } from "./Why";

/** The figure is cut so far above a tip that is looked at, so that what it holds is seen. */
const SEEN_MM = 3;

const COLUMNS: Column<SupportsRow>[] = [
  { id: "tips", head: "tips", cell: (c) => c.tip_count },
  {
    id: "contact",
    head: (
      <>
        contact
        <br />
        mm²
      </>
    ),
    name: "contact mm²",
    from: 560,
    cell: (c) => c.contact_mm2.toFixed(1),
  },
  {
    id: "standing",
    head: (
      <>
        on
        <br />
        figure
      </>
    ),
    name: "on the figure",
    from: 640,
    cell: (c) => c.on_model,
  },
  {
    id: "islands",
    head: (
      <>
        islands
        <br />
        left
      </>
    ),
    cell: (c) => <span className={c.islands_after ? "text-persimmon" : ""}>{c.islands_after}</span>,
  },
  {
    id: "ml",
    head: (
      <>
        supports
        <br />
        ml
      </>
    ),
    name: "ml",
    from: 600,
    cell: (c) => c.volume_ml.toFixed(2),
  },
  {
    id: "off",
    head: (
      <>
        off
        <br />
        min
      </>
    ),
    name: "minutes to take them off",
    from: 680,
    cell: (c) => c.off_min.toFixed(0),
  },
  {
    id: "firm",
    head: (
      <>
        sways
        <br />
        mm
      </>
    ),
    name: "sways mm",
    from: 760,
    cell: (c) =>
      c.firm ? (
        <span className={c.firm.beyond ? "text-persimmon" : ""}>{c.firm.sway_mm.toFixed(2)}</span>
      ) : (
        ""
      ),
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
    cell: (c) => hm(c.numbers.time_s),
  },
  {
    id: "risk",
    head: (
      <>
        risk
        <br />%
      </>
    ),
    cell: (c) => <ChanceBar chance={c.numbers.risk} />,
  },
];

export function SupportsFold(props: FoldProps) {
  const held = foldOf(props.plan, "supports");
  if (!held.ready)
    return <NotYet plan={props.plan} fold="supports" line="Supports depend on the pose." />;
  return <Holding key={`${props.plan.head}`} {...props} />;
}

function Holding({ plan, show, option, onOption, onLayer, settled }: FoldProps) {
  const held = foldOf(plan, "supports");
  const [search] = useSearchParams();
  const [asked, setAsked] = useState<Asked | null>(() => {
    const before = held.asked?.own ?? null;
    return withMore(before, held.choice, search.get("put")) ?? before;
  });
  const [mayBreak, setMayBreak] = useState(!!held.asked?.may_break);
  const wishes = wishesOf(asked);
  const board = useSupports(plan, true, wishes);
  const { take, busy } = useTake(plan, "supports", board.key, settled, {
    fold: "supports",
    own: asked,
    may_break: mayBreak,
  });
  const data = board.document ?? board.old;
  const taken = takenOf(held);
  const count = data?.choices.length ?? 0;
  const shown = Math.min(option ?? taken ?? data?.recommended ?? 0, Math.max(0, count - 1));
  const row = data?.choices.at(shown);
  const hand = useByHand(row, foldOf(plan, "size").choice?.factor ?? 1);
  const prove = (wish: Asked | null) => {
    setAsked(wish);
    onOption(count - (data?.choices.at(-1)?.own ? 1 : 0));
  };
  const [walked, setWalked] = useState<{ of: SupportsRow; spot: number } | null>(null);
  const spot = walked && walked.of === row ? walked.spot : null;
  const tip = spot == null ? undefined : row?.spots.at(spot);
  const breaks = row?.findings.find((f) => f.code === "breaks-marks");
  useBoardKeys(
    count,
    shown,
    onOption,
    () => board.document && !hand.edits.length && (!breaks || mayBreak) && take(shown),
  );
  useStage(
    show,
    {
      items: [
        { kind: "figure", sha: null, matrix: row?.matrix, thick: marginsOf(row) },
        ...(row?.supports_sha ? [{ kind: "supports" as const, sha: row.supports_sha }] : []),
        ...(tip
          ? [
              {
                kind: "pin" as const,
                x: tip.at[0],
                y: tip.at[1],
                z: tip.at[2],
                text: `${tip.diameter_mm.toFixed(2)} mm`,
                face: true,
              },
            ]
          : []),
        ...hand.items,
      ],
      foot: row
        ? { kind: "strip", data: row.strip }
        : { kind: "empty", text: "Supports are being placed and every layer is read with them." },
      figures: { shown: taken === shown ? null : row?.numbers },
      stale: !!data && !board.document && !board.draft,
    },
    [row, board.document, taken, shown, hand.mode, hand.edits.length, hand.held, spot],
  );
  return (
    <>
      <Heading
        title={held.question}
        line={
          row
            ? lineOf(row, data?.why ?? "")
            : "Tips, pillars, trees and raft are placed in several ways and each is proved."
        }
      />
      <Waiting of={board} what="Placing supports" />
      {data && row && (
        <>
          <Findings of={row.findings.filter((f) => f.severity === "severe")} />
          <Board
            label="Support sets"
            textHead="accepted risk"
            rows={data.choices}
            keyOf={(c) => `${c.style} ${c.risk} ${c.own}`}
            columns={[worthColumn((c) => c.worth, data.choices), ...COLUMNS]}
            picture={(c) => `/api/blobs/${c.picture_sha}`}
            text={(c, i) => (
              <RowName
                name={nameOf(c, i)}
                recommended={i === data.recommended}
                taken={i === taken}
                line={rowLine(c)}
              />
            )}
            shown={shown}
            onShown={onOption}
          />
          <Findings of={row.findings.filter((f) => f.severity !== "severe")} />
          {/* What is begun on a draft would be lost with it. */}
          {!board.draft && (
            <>
              <OneByOne
                plan={plan}
                row={row}
                at={spot}
                gone={hand.gone}
                onTakeAway={hand.takeAway}
                onAt={(i) => {
                  setWalked(i == null ? null : { of: row, spot: i });
                  if (i != null)
                    onLayer(Math.ceil((row.spots[i].at[2] + SEEN_MM) / row.layer_height_mm));
                }}
              />
              <TwoSets plan={plan} rows={data.choices} shown={shown} />
              <RiskDial
                key={`${row.style} ${row.risk} ${row.own}`}
                plan={plan}
                row={row}
                busy={board.waiting}
                onAsk={prove}
              />
              <RaftPick
                row={row}
                busy={board.waiting}
                onRaft={(raft) => prove(onRaft(row, raft))}
              />
              <ByHand
                plan={plan}
                row={row}
                hand={hand}
                busy={board.waiting}
                onProve={() => {
                  prove(hand.asked());
                  hand.setMode("off");
                }}
              />
            </>
          )}
          <Why
            plan={plan}
            fold="supports"
            wishes={wishes}
            board={board.document ? board.key : null}
            shown={shown}
            names={data.choices.map((c, i) => nameOf(c, i))}
          />
          <Deciding
            said={
              <>
                Proved at {data.layer_height_mm} mm layers{row.raft ? ", on a raft" : ""}. Priors.{" "}
                <AtRates plan={plan} />
              </>
            }
          >
            {breaks && <MayBreak many={breaks.count} value={mayBreak} onValue={setMayBreak} />}
            <Take
              may={!!board.document && !busy && !hand.edits.length && (!breaks || mayBreak)}
              onTake={() => take(shown)}
            >
              Take these supports
            </Take>
          </Deciding>
        </>
      )}
    </>
  );
}

function lineOf(row: SupportsRow, why: string): string {
  const starts = `${row.islands_before} place${row.islands_before === 1 ? " starts" : "s start"} in mid air`;
  const raised = row.lift_mm ? `; it hangs ${row.lift_mm.toFixed(0)} mm up` : "";
  return `${starts}${raised}. ${why}`;
}
