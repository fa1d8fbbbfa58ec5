import { useEffect, useMemo, useState } from "react";
import { useHotkeys } from "react-hotkeys-hook";
import { usePoses } from "../api/boards";
import type { Down, PlanState, PoseBoard, PoseRow, Schemas } from "../api/client";
import { count } from "../shell/format";
import { useView } from "../shell/view";
import type { Foot, Item, Stage } from "../stage/scene";
import { Choice } from "../ui/Choice";
import { useBoardKeys, useStage, useTake } from "./board";
import { Deciding, Heading, NotYet } from "./Heading";
import { onPlate, turnTo } from "./pose/globe";
import { MapView } from "./pose/MapView";
import { PoseRows } from "./pose/PoseRows";
import { fully, type Wish } from "./pose/Rates";
import { usePoseAddress } from "./pose/address";
import { useHand, useRanked } from "./pose/useHand";
import { poseName } from "./pose/words";
import { Elsewhere } from "./size/Elsewhere";
import { framesOf } from "./size/stood";
import { foldOf, takenOf, type FoldProps } from "./types";
import { Waiting } from "./Waiting";
import { Why } from "./Why";

interface Wishes {
  wish: Wish;
  pinned: Down[];
}
const MOST_BY_HAND = 4;

/** A wish without what holds by itself: the same one is always written alike. */
const plainly = (w: Wish | null | undefined): Wish => ({
  ...(w?.rates != null && w.rates !== "evening" ? { rates: w.rates } : {}),
  ...(w?.hours != null ? { hours: w.hours } : {}),
  ...(w?.clean ? { clean: true } : {}),
  ...(w?.free ? { free: true } : {}),
});
const whole = (w: Schemas["PoseAsk"] | null | undefined): Wishes => ({
  wish: plainly(w?.wish),
  pinned: w?.pinned ?? [],
});
const same = (a: unknown, b: unknown) => JSON.stringify(a) === JSON.stringify(b);

/** What the fold begins with: what the plan says is asked, whether it was settled or came with the marks. */
const firstWishes = (plan: PlanState): Wishes => whole(foldOf(plan, "pose").asked);

function lineOf(data: PoseBoard | null, marked: boolean, byHand: number): string {
  if (!data) return "Directions are weighed, then every layer of the best four is read.";
  const those = data.candidates.length - byHand;
  const weighed = `${count(data.evaluated)} directions weighed${marked ? " for your marks" : ""}`;
  return `${weighed}; every layer of ${those === 1 ? "one" : those} is read.`;
}

export function PoseFold(props: FoldProps) {
  const held = foldOf(props.plan, "pose");
  if (!held.ready)
    return <NotYet plan={props.plan} fold="pose" line="The pose depends on the size." />;
  return <Posing key={`${props.plan.head}`} {...props} />;
}

function Posing({ plan, intake, show, option, onOption, settled }: FoldProps) {
  const held = foldOf(plan, "pose");
  const marked = !!foldOf(plan, "marks").choice?.strokes?.length;
  const [asked, setAsked] = useState<Wishes>(() => firstWishes(plan));
  const [wish, setWish] = useState<Wish>(asked.wish);
  const { hold, map, beside: askedBeside, put } = usePoseAddress();
  const { setDye } = useView();
  const wishes = JSON.stringify(asked);
  const board = usePoses(plan, true, wishes);
  const { take, busy } = useTake(plan, "pose", board.key, settled, {
    fold: "pose",
    wish: fully(asked.wish),
    pinned: asked.pinned,
  });
  const data = board.document ?? board.old;
  const byHand = asked.pinned.length;
  const taken = same(whole(held.choice?.wishes), asked) ? takenOf(held) : null;
  const last = (data?.candidates.length ?? 1) - 1;
  const shown = Math.min(option ?? taken ?? data?.recommended ?? 0, last);
  const row: PoseRow | undefined = data?.candidates[shown];
  const other =
    askedBeside != null && askedBeside !== shown ? data?.candidates.at(askedBeside) : undefined;
  const moved = !same(plainly(wish), asked.wish);
  const ranked = useRanked(plan, plainly(wish), !!data && moved);
  const hand = useHand(plan, plainly(wish), !!data, hold);
  const [hover, setHover] = useState<number | null>(null);
  const size = foldOf(plan, "size").choice;
  const factor = size?.factor ?? 1;
  const frames = useMemo(() => framesOf(size), [size]);

  const walk = (o: number) => {
    hand.letGo();
    onOption(o);
  };
  useBoardKeys(last + 1, shown, walk, () => {
    if (board.document && !hand.turn && !ranked) take(shown);
  });
  useHotkeys("m", () => put({ view: map ? null : "map" }), [map, put]);
  useEffect(() => {
    if (!other) return;
    setDye(marked ? "scars" : "ceilings");
    return () => setDye("plain");
  }, [!other, marked, setDye]); // eslint-disable-line react-hooks/exhaustive-deps -- another to compare with, whichever

  const keep = () => {
    if (!hand.down || !data) return;
    const pinned = asked.pinned.slice(1 - MOST_BY_HAND);
    const [x, y, z] = hand.down.map((v) => Number(v.toFixed(6)));
    setAsked({ wish: plainly(wish), pinned: [...pinned, [x, y, z]] });
    hand.letGo();
    put({
      view: null,
      beside: null,
      hold: null,
      option: String(last + 1 - byHand + pinned.length),
    });
  };

  // What stands on the table: the figure in the hand, the direction under the pointer, what another
  // wish would bring, or the row.
  const anew =
    map && ranked ? ranked.candidates[Math.min(shown, ranked.candidates.length - 1)] : null;
  const over = hover == null ? null : (data?.map.down[hover] ?? null);
  const turned = useMemo(() => hand.turn ?? (over ? turnTo(over) : null), [hand.turn, over]);
  const hull = intake?.hull;
  const laid = useMemo(
    () => (turned && hull ? onPlate(turned, factor, hull) : null),
    [turned, hull, factor],
  );
  const matrix = laid ?? anew?.matrix ?? row?.matrix;
  const name = (r: PoseRow, i: number) => `${i + 1}: ${poseName(frames.own(r.pose.down))}`;
  const limit = data?.map.limit;
  useStage(
    show,
    {
      items: [
        { kind: "figure", sha: null, matrix, limit },
        ...(hand.turn ? [{ kind: "hand", onTurn: hand.onTurn } satisfies Item] : []),
      ],
      title: titleOf(
        !!hand.turn,
        over && frames.own(over),
        other && row ? name(row, shown) : undefined,
      ),
      beside:
        other && !hand.turn
          ? {
              items: [{ kind: "figure", sha: null, matrix: other.matrix, limit }],
              title: name(other, askedBeside ?? 0),
            }
          : null,
      foot: footOf(hand.turn ? "hand" : anew ? "anew" : "row", row, other, (r) =>
        name(r, r === row ? shown : (askedBeside ?? 0)),
      ),
      figures: {
        shown: taken === shown || hand.turn || anew ? null : row?.numbers,
        against: held.numbers ?? null,
      },
      stale: !!data && !board.document && !board.draft && !hand.turn,
    } satisfies Stage,
    [row, other, board.document, taken, shown, matrix, hand.turn, over, anew],
  );

  return (
    <>
      <div className="flex items-start justify-between gap-x-4">
        <Heading title={held.question} line={lineOf(data, marked, byHand)} />
        {data && (
          <Choice
            label="View"
            className="shrink-0 pt-1"
            value={map ? "map" : "board"}
            options={[
              { value: "board", text: "Board", tip: "key M" },
              { value: "map", text: "Map", tip: "key M" },
            ]}
            onValue={(v) => put({ view: v === "map" ? "map" : null })}
          />
        )}
      </div>
      <Waiting of={board} what={data ? "Reading the layers of these" : "Finding poses"} />
      {board.problem?.code === "does-not-fit" && <Elsewhere plan={plan} />}
      {data && map && (
        <MapView
          data={data}
          frames={frames}
          ranked={ranked}
          shown={shown}
          hand={hand.down}
          said={hand.said}
          process={size?.process ?? "resin"}
          wish={wish}
          onWish={setWish}
          waiting={!board.document}
          onPick={(d) => {
            setHover(null);
            hand.take(d);
          }}
          onPin={walk}
          onHover={(i) => !hand.turn && setHover(i)}
          onHand={() => row && hand.take(row.pose.down)}
        />
      )}
      {data && !map && (
        <PoseRows
          data={data}
          frames={frames}
          marked={marked}
          shown={shown}
          taken={taken}
          byHand={byHand}
          beside={other ? askedBeside : null}
          onShown={walk}
          onBeside={(i) => put({ beside: i == null ? null : String(i) })}
        />
      )}
      {data && !map && (
        <Why
          plan={plan}
          fold="pose"
          wishes={wishes}
          board={board.document ? board.key : null}
          shown={shown}
          names={data.candidates.map(name)}
        />
      )}
      {data && (
        <Deciding
          said={
            map
              ? "Click the map or turn the figure by hand; M goes back to the board."
              : "J and K walk the board, M opens the map with your rates, Enter takes the row shown. Prices are priors."
          }
        >
          {hand.turn && (
            <>
              <button type="button" className="quiet" onClick={hand.letGo}>
                Let go
              </button>
              <button type="button" className="take" disabled={!hand.said?.fits} onClick={keep}>
                Keep this way as a row
              </button>
            </>
          )}
          {!hand.turn && ranked && (
            <>
              <button type="button" className="quiet" onClick={() => setWish(asked.wish)}>
                As they were
              </button>
              <button
                type="button"
                className="take"
                onClick={() => setAsked({ ...asked, wish: plainly(wish) })}
              >
                Read the layers of these
              </button>
            </>
          )}
          {!hand.turn && !ranked && (
            <button
              type="button"
              className="take"
              disabled={!board.document || busy}
              onClick={() => take(shown)}
            >
              Take pose {shown + 1}
            </button>
          )}
        </Deciding>
      )}
    </>
  );
}

function titleOf(
  inHand: boolean,
  over: Down | null,
  compared: string | undefined,
): string | undefined {
  if (inHand) return "turned by hand: drag it";
  return over ? poseName(over) : compared;
}

function footOf(
  of: "hand" | "anew" | "row",
  row: PoseRow | undefined,
  other: PoseRow | undefined,
  name: (row: PoseRow) => string,
): Foot {
  if (of === "hand")
    return { kind: "empty", text: "Every layer is read once this way is kept as a row." };
  if (of === "anew")
    return {
      kind: "empty",
      text: "Ranked anew from the search; every layer is read when you ask for it.",
    };
  if (!row) return { kind: "empty", text: "Poses are being read layer by layer." };
  const told = (r: PoseRow) => ({
    title: `${name(r)}, overhang ${r.overhang_mm2.toFixed(0)} mm²`,
    data: r.strip,
  });
  return other
    ? { kind: "two strips", above: told(row), below: told(other) }
    : { kind: "strip", data: row.strip };
}
