import type { Proposals } from "../../api/client";
import type { Computed } from "../../api/queries";
import type { Kind } from "../../patterns/kinds";
import type { Stroke } from "../../turntable/surface";
import { Choice } from "../../ui/Choice";
import { Waiting } from "../Waiting";
import { Weave } from "./kinds";

const SAID: Record<string, [string, string]> = {
  seen: ["Seen from around the table, and draws the eye", "show"],
  unseen: ["Seen from nowhere around the table", "hidden"],
  cuts: ["Flat cut faces", "hidden"],
  faces: ["A face: what people look at first", "show"],
  fits: ["Pegs, sockets and what they meet", "fit"],
};
const WORTH_SAYING = 0.0005;

interface Props {
  proposals: Computed<Proposals>;
  strokes: Stroke[];
  onAdd: (stroke: Stroke) => void;
  bare: boolean;
  onBare: (bare: boolean) => void;
  faceless: boolean;
  onFaceless: (faceless: boolean) => void;
}

const guessOf = (views: number) =>
  `A guess: ${views} views from around agree on a face. Scars cost most there.`;

/** What the figure itself says of its surfaces, each to be laid on with one press. */
export function Proposed(props: Props) {
  const { proposals, strokes, onAdd, bare, onBare, faceless, onFaceless } = props;
  const views = proposals.document?.faces[0]?.views ?? 0;
  const told = proposals.document?.proposals.filter((p) => p.share > WORTH_SAYING) ?? [];
  const last = strokes.findLastIndex((s) => s.tool === "clear");
  const laid = (name: string) =>
    strokes.slice(last + 1).some((s) => s.tool === "propose" && s.what === name);
  return (
    <section aria-labelledby="proposed" className="pt-1">
      <h2 id="proposed" className="text-[17px]">
        What the figure itself says
      </h2>
      <Waiting of={proposals} what="Looking at it from around the table" />
      {told.some((p) => p.soft) && (
        <Choice
          label="What the figure itself says"
          className="pb-1"
          value={bare ? "bare" : "soft"}
          options={[
            { value: "soft", text: "counts softly" },
            { value: "bare", text: "bare: not at all" },
          ]}
          onValue={(v) => onBare(v === "bare")}
        />
      )}
      <ul>
        {told.map((p) => (
          <li key={p.name} className="flex items-center gap-2 border-b border-thread/60 py-0.5">
            <Weave kind={p.kind as Kind} size={14} />
            <span className="flex-1 text-[13.5px] leading-tight">
              {SAID[p.name][0]}{" "}
              <span className="whitespace-nowrap text-[12.5px] text-faded">
                {(100 * p.share).toFixed(p.share < 0.01 ? 1 : 0)} %
              </span>
            </span>
            <button
              type="button"
              className="quiet min-h-[26px] px-2 py-0 text-[13px]"
              disabled={laid(p.name)}
              onClick={() => onAdd({ tool: "propose", what: p.name, kind: p.kind as Kind })}
            >
              {laid(p.name) ? "laid on" : `Lay on as ${SAID[p.name][1]}`}
            </button>
          </li>
        ))}
      </ul>
      {views > 0 && (
        <p className="flex items-center gap-2 pt-1 text-[13px] text-faded">
          <span className="flex-1 leading-tight">
            {faceless ? "Your word: no face. It counts as what is around it." : guessOf(views)}
          </span>
          <button
            type="button"
            className="quiet min-h-[26px] px-2 py-0 text-[13px]"
            aria-pressed={faceless}
            onClick={() => onFaceless(!faceless)}
          >
            {faceless ? "It is one" : "No face"}
          </button>
        </p>
      )}
      {proposals.document && !told.length && <p className="text-faded">Nothing stands out.</p>}
    </section>
  );
}
