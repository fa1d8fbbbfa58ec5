import type { SupportsBoard } from "../api/documents";
import { useFold } from "../api/queries";
import { ChanceBar } from "../patterns/Patterns";
import { hm } from "../shell/format";
import type { FoldProps } from "./FigurePage";
import { Heading, isReady, NotYet } from "./NotYet";
import { Waiting } from "./Waiting";
import { rowProps, useBoardKeys, useStage, useTake } from "./board";

const WORDS = ["Held by all means", "Held well", "As few as hold"];
const LINES = ["one tip in a hundred may fail", "one tip in twenty may fail", "one tip in five may fail; cleanest surface"];

export function SupportsFold({ plan, show, option, onOption, settled }: FoldProps) {
  const ready = isReady(plan, "supports");
  const board = useFold<SupportsBoard>(plan, "supports", ready);
  const { take, busy } = useTake(plan, "supports", "layers", settled);
  const data = board.document ?? board.old;
  const held = plan.folds.find((f) => f.name === "supports")!;
  const taken = held.state === "settled" ? ((held.choice as { option?: number })?.option ?? null) : null;
  const shown = Math.min(option ?? taken ?? data?.recommended ?? 0, (data?.choices.length ?? 1) - 1);
  const row = data?.choices[shown];
  useBoardKeys(data?.choices.length ?? 0, shown, onOption, () => board.document && take(shown));
  useStage(show, { strip: row?.strip, matrix: row?.matrix, supports: row?.supports_sha, numbers: taken === shown ? null : row?.numbers, stale: !!data && !board.document, empty: "Supports are being placed and every layer is read with them." }, [row, board.document, taken, shown]);
  if (!ready) return <><Heading title="How is it held?" line="Supports depend on the pose." /><NotYet plan={plan} fold="supports" /></>;
  return (
    <>
      <Heading title="How is it held?" line={row ? `${row.islands_before} place${row.islands_before === 1 ? "" : "s"} start in mid air${row.lift_mm ? `, and the figure is raised ${row.lift_mm.toFixed(0)} mm` : ""}. Load, stiffness and the risk you accept give the tips, not a density.` : "Tips, pillars and raft are placed three ways and each is proved."} />
      <Waiting of={board} what="Placing supports" />
      {data && row && (
        <>
          <table className="board" aria-label="Support sets">
            <thead><tr><th colSpan={2}>accepted risk</th><th>tips</th><th>contact<br />mm²</th><th>on the<br />figure</th><th>islands<br />left</th><th>supports<br />ml</th><th>time<br />h:min</th><th>risk<br />%</th></tr></thead>
            <tbody>
              {data.choices.map((c, i) => (
                <tr key={c.risk} {...rowProps(i, shown, onOption)}>
                  <td className="w-[76px]"><img src={`/api/blobs/${c.picture_sha}`} alt="" width="64" height="64" /></td>
                  <td style={{ textAlign: "left" }}>
                    <span className="block text-[15px] font-medium">{WORDS[i]} {i === data.recommended && <span className="ml-1 text-[12.5px] font-normal text-moss">recommended</span>}{i === taken && <span className="ml-1 text-[12.5px] font-normal text-indigo">taken</span>}</span>
                    <span className="block text-[12.5px] text-faded">{LINES[i]}</span>
                  </td>
                  <td>{c.tip_count}</td><td>{c.contact_mm2.toFixed(1)}</td><td>{c.on_model}</td><td className={c.islands_after ? "text-persimmon" : ""}>{c.islands_after}</td><td>{c.volume_ml.toFixed(2)}</td><td>{hm(c.numbers.time_s)}</td><td><ChanceBar chance={c.numbers.risk} /></td>
                </tr>
              ))}
            </tbody>
          </table>
          {row.findings.map((f) => <p key={f.code} className={`mt-2 border-l-4 bg-paper px-3 py-1.5 text-[13.5px] ${f.severity === "severe" ? "border-persimmon" : "border-thread"}`}>{f.message}</p>)}
          <div className="sticky bottom-0 flex items-center justify-between gap-4 bg-cotton py-2"><span className="text-[13px] text-faded">Proved at {data.layer_height_mm} mm layers{row.raft ? ", on a raft" : ""}. Risk is a prior.</span><button type="button" className="take" disabled={!board.document || busy} onClick={() => take(shown)}>Take these supports</button></div>
        </>
      )}
    </>
  );
}
