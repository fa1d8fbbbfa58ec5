import type { PoseBoard, PoseRow } from "../../api/client";
import { ChanceBar } from "../../patterns/Patterns";
import { worthColumn } from "../../patterns/WorthBar";
import { hm } from "../../shell/format";
import { Board, type Column } from "../../ui/Board";
import { RowName } from "../Heading";
import type { Frames } from "../size/stood";
import { poseName } from "./words";

interface Props {
  frames: Frames;
  data: PoseBoard;
  /** Whether scars count by marks. */
  marked: boolean;
  shown: number;
  taken: number | null;
  /** How many of the last rows were turned by hand. */
  byHand: number;
  beside: number | null;
  onShown: (index: number) => void;
  onBeside: (index: number | null) => void;
}

function columnsOf({ data, marked, shown, beside, onBeside }: Props): Column<PoseRow>[] {
  return [
    worthColumn((c) => c.pose.metrics.worth, data.candidates),
    {
      id: "starts",
      head: (
        <>
          starts in
          <br />
          mid air
        </>
      ),
      name: "start in mid air",
      from: 470,
      cell: (c) => (
        <>
          {c.strip.islands.length}
          {c.strip.slight_islands > 0 && (
            <span className="block text-[11.5px] whitespace-nowrap text-faded">
              {c.strip.slight_islands} slight
            </span>
          )}
        </>
      ),
    },
    {
      id: "scars",
      head: marked ? (
        <>
          scars by
          <br />
          marks mm²
        </>
      ) : (
        <>
          needs
          <br />
          support mm²
        </>
      ),
      name: marked ? "scars mm²" : "support mm²",
      from: 640,
      cell: (c) =>
        (marked ? c.pose.metrics.scar_area_mm2 : c.pose.metrics.support_area_mm2).toFixed(0),
    },
    {
      id: "peak",
      head: (
        <>
          widest
          <br />
          section mm²
        </>
      ),
      name: "widest mm²",
      from: 760,
      cell: (c) => c.peak_area_mm2.toFixed(0),
    },
    {
      id: "sealed",
      head: (
        <>
          sealed
          <br />
          ml
        </>
      ),
      name: "sealed ml",
      from: 840,
      cell: (c) => (c.sealed_mm3 / 1000).toFixed(2),
    },
    {
      id: "height",
      head: (
        <>
          height
          <br />
          mm
        </>
      ),
      name: "height mm",
      from: 700,
      cell: (c) => c.pose.metrics.height_mm.toFixed(1),
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
          risk %
          <br />
          once held
        </>
      ),
      cell: (c) => <ChanceBar chance={c.numbers.risk} />,
    },
    {
      id: "beside",
      head: "",
      width: 52,
      from: 560,
      cell: (_, i) =>
        i !== shown && (
          <button
            type="button"
            className="text-[12.5px] text-indigo underline underline-offset-2"
            aria-pressed={beside === i}
            aria-label={`Lay pose ${i + 1} beside the one shown`}
            onClick={(e) => {
              e.stopPropagation();
              onBeside(beside === i ? null : i);
            }}
            onFocus={(e) => e.stopPropagation()}
          >
            {beside === i ? "apart" : "beside"}
          </button>
        ),
    },
  ];
}

/** Poses beside each other, each with every layer read. */
export function PoseRows(props: Props) {
  const { data, shown, taken, byHand, onShown } = props;
  return (
    <Board
      label="Poses"
      textHead="pose"
      rows={data.candidates}
      keyOf={(c) => c.pose.down.join()}
      columns={columnsOf(props)}
      picture={(c) => `/api/blobs/${c.picture_sha}`}
      text={(c, i) => (
        <RowName
          name={`${i + 1}\u2002${poseName(props.frames.own(c.pose.down))}`}
          recommended={i === data.recommended}
          taken={i === taken}
          more={
            i >= data.candidates.length - byHand && (
              <span className="ml-2 text-[12.5px] font-normal text-persimmon">by hand</span>
            )
          }
          line={c.pose.why}
        />
      )}
      shown={shown}
      onShown={onShown}
    />
  );
}
