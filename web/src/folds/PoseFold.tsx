import type { PoseBoard, PoseRow } from "../api/documents";
import { useFold } from "../api/queries";
import { ChanceBar } from "../patterns/Patterns";
import { count, hm } from "../shell/format";
import type { FoldProps } from "./FigurePage";
import { Heading, isReady, NotYet } from "./NotYet";
import { Waiting } from "./Waiting";
import { rowProps, useBoardKeys, useStage, useTake } from "./board";

/** A pose in words: how far the file's own upright leans, and which way. */
export function poseName(down: number[]): string {
  const [x, y, z] = down;
  const lean = Math.round((Math.acos(Math.min(1, Math.max(-1, -z))) * 180) / Math.PI);
  if (lean < 4) return "Upright";
  if (lean > 176) return "Upside down";
  // What points down in the file's frame tells which way its top leans; figures face -y.
  const side = Math.abs(y) >= Math.abs(x) ? (y > 0 ? "back" : "forward") : x > 0 ? "to its left" : "to its right";
  if (lean > 75 && lean < 105) return side === "back" ? "Lying on its back" : side === "forward" ? "Lying face down" : `Lying ${side.replace("to", "on")}`;
  return lean <= 75 ? `Leaning ${side} ${lean}°` : `Head down, ${side} ${180 - lean}°`;
}

export function PoseFold({ plan, show, option, onOption, settled }: FoldProps) {
  const ready = isReady(plan, "pose");
  const board = useFold<PoseBoard>(plan, "pose", ready);
  const { take, busy } = useTake(plan, "pose", "supports", settled);
  const data = board.document ?? board.old;
  const held = plan.folds.find((f) => f.name === "pose")!;
  const taken = held.state === "settled" ? ((held.choice as { option?: number })?.option ?? null) : null;
  const shown = Math.min(option ?? taken ?? data?.recommended ?? 0, (data?.candidates.length ?? 1) - 1);
  const row: PoseRow | undefined = data?.candidates[shown];
  useBoardKeys(data?.candidates.length ?? 0, shown, onOption, () => board.document && take(shown));
  useStage(show, { strip: row?.strip, matrix: row?.matrix, numbers: taken === shown ? null : row?.numbers, stale: !!data && !board.document, empty: "Four poses are being read layer by layer." }, [row, board.document, taken, shown]);
  if (!ready) return <><Heading title="Which way up?" line="The pose depends on the size." /><NotYet plan={plan} fold="pose" /></>;
  return (
    <>
      <Heading title="Which way up?" line={data ? `${count(data.evaluated)} directions weighed. Four that no other beats; every layer of each has been read, without supports.` : "Directions are weighed, then every layer of the best four is read."} />
      <Waiting of={board} what="Finding poses" />
      {data && (
        <>
          <table className="board" aria-label="Poses">
            <thead><tr><th colSpan={2}>pose</th><th className="whitespace-nowrap">starts in<br />mid air</th><th>needs<br />support, mm²</th><th>widest<br />section, mm²</th><th>sealed<br />ml</th><th>height<br />mm</th><th>time<br />h:min</th><th>risk %,<br />unheld</th></tr></thead>
            <tbody>
              {data.candidates.map((c, i) => (
                <tr key={i} {...rowProps(i, shown, onOption)}>
                  <td className="w-[76px]"><img src={`/api/blobs/${c.picture_sha}`} alt="" width="58" height="58" /></td>
                  <td style={{ textAlign: "left" }}>
                    <span className="block text-[15px] font-medium">{poseName(c.down)} {i === data.recommended && <span className="ml-1 text-[12.5px] font-normal text-moss">recommended</span>}{i === taken && <span className="ml-1 text-[12.5px] font-normal text-indigo">taken</span>}</span>
                    <span className="block text-[12.5px] leading-snug text-faded">{c.why}</span>
                  </td>
                  <td>{c.strip.islands.length}{c.strip.slight_islands > 0 && <span className="block whitespace-nowrap text-[11.5px] text-faded">{c.strip.slight_islands} slight</span>}</td><td>{c.metrics.support_area_mm2.toFixed(0)}</td><td>{c.peak_area_mm2.toFixed(0)}</td><td>{(c.sealed_mm3 / 1000).toFixed(2)}</td><td>{c.metrics.height_mm.toFixed(1)}</td><td>{hm(c.numbers.time_s)}</td><td><ChanceBar chance={c.numbers.risk} /></td>
                </tr>
              ))}
            </tbody>
          </table>
          <div className="sticky bottom-0 flex items-center justify-between gap-4 bg-cotton py-2"><span className="text-[13px] text-faded">J and K walk the board, Enter takes the row shown. Risk is a prior.</span><button type="button" className="take" disabled={!board.document || busy} onClick={() => take(shown)}>Take this pose</button></div>
        </>
      )}
    </>
  );
}
