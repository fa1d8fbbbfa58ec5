import type { HeightBoard, HeightRow } from "../api/documents";
import { useFold } from "../api/queries";
import { ChanceBar } from "../patterns/Patterns";
import { count, hm } from "../shell/format";
import type { FoldProps } from "./FigurePage";
import { Heading, isReady, NotYet } from "./NotYet";
import { Waiting } from "./Waiting";
import { rowProps, useBoardKeys, useStage, useTake } from "./board";

/** Steps on a slope of this figure, drawn to one scale for all heights. */
function Steps({ row, coarsest }: { row: HeightRow; coarsest: number }) {
  const unit = 15 / coarsest;
  const h = row.layer_height_mm * unit;
  const slope = Math.min(0.995, row.cusp_mm.p95 / row.layer_height_mm || 0);
  const run = Math.min(60, h * Math.max(0.25, slope / Math.sqrt(1 - slope * slope)));
  const steps = Math.max(1, Math.floor(Math.min(30 / h, 88 / run)));
  let path = "M2 33";
  for (let i = 0; i < steps; i++) path += `v${-h}h${run}`;
  return <svg width="94" height="36" aria-hidden><path d={`${path}V33z`} fill="var(--section)" stroke="var(--indigo)" strokeWidth="1" /></svg>;
}

export function LayersFold({ plan, show, option, onOption, settled }: FoldProps) {
  const ready = isReady(plan, "layers");
  const board = useFold<HeightBoard>(plan, "layers", ready);
  const { take, busy } = useTake(plan, "layers", "proof", settled);
  const data = board.document ?? board.old;
  const held = plan.folds.find((f) => f.name === "layers")!;
  const taken = held.state === "settled" ? ((held.choice as { option?: number })?.option ?? null) : null;
  const shown = Math.min(option ?? taken ?? data?.recommended ?? 0, (data?.choices.length ?? 1) - 1);
  const row = data?.choices[shown];
  const filament = row?.time_is !== "formula";
  useBoardKeys(data?.choices.length ?? 0, shown, onOption, () => board.document && take(shown));
  useStage(show, { strip: data?.strip, matrix: data?.matrix, supports: data?.supports_sha, numbers: taken === shown ? null : row?.numbers, stale: !!data && !board.document, empty: "The figure is being cut at four heights." }, [data, row, board.document, taken, shown]);
  if (!ready) return <><Heading title="How thin a layer?" line="Layer height depends on the supported figure." /><NotYet plan={plan} fold="layers" /></>;
  return (
    <>
      <Heading title="How thin a layer?" line={data ? data.why : "The supported figure is cut at four heights."} />
      <Waiting of={board} what="Comparing layer heights" />
      {data && row && (
        <>
          <table className="board" aria-label="Layer heights">
            <thead><tr><th>layer height</th><th>steps drawn<br />to one scale</th><th>steps µm<br />median</th><th>steps µm<br />95 %</th><th>layers</th><th>time<br />h:min</th><th>{filament ? "grams" : "ml"}</th><th>cost</th>{filament && <th>blemishes<br />expected</th>}<th>risk<br />%</th></tr></thead>
            <tbody>
              {data.choices.map((c, i) => (
                <tr key={c.layer_height_mm} {...rowProps(i, shown, onOption)}>
                  <td><span className="block font-medium">{c.layer_height_mm} mm</span><span className="block text-[12.5px] text-faded">{c.step_kind === "none" ? "" : `${c.step_kind} step of the motor`} {i === data.recommended && <span className="text-moss">recommended</span>} {i === taken && <span className="text-indigo">taken</span>}</span></td>
                  <td className="w-[104px]"><Steps row={c} coarsest={data.choices[data.choices.length - 1].layer_height_mm} /></td>
                  <td>{(c.cusp_mm.median * 1000).toFixed(0)}</td><td>{(c.cusp_mm.p95 * 1000).toFixed(0)}</td><td>{count(c.layers)}</td><td>{hm(c.time_s)}</td><td>{filament ? c.material_g.toFixed(0) : c.numbers.volume_ml.toFixed(1)}</td><td>{c.cost.toFixed(2)}</td>{filament && <td>{c.blemishes.toFixed(1)}</td>}<td><ChanceBar chance={c.risk} /></td>
                </tr>
              ))}
            </tbody>
          </table>
          <Curve rows={data.choices} shown={shown} best={data.recommended} onOption={onOption} />
          <div className="sticky bottom-0 flex items-center justify-between gap-4 bg-cotton py-2"><span className="text-[13px] text-faded">{filament ? "Time is a rough estimate from line lengths. Blemishes and risk are priors." : "Time follows the machine's formula. Risk is a prior."}</span><button type="button" className="take" disabled={!board.document || busy} onClick={() => take(shown)}>Take this height</button></div>
        </>
      )}
    </>
  );
}

/** Steps against hours: where the curve bends. */
function Curve({ rows, shown, best, onOption }: { rows: HeightRow[]; shown: number; best: number; onOption: (o: number) => void }) {
  const w = 460;
  const h = 92;
  const most = Math.max(...rows.map((r) => r.time_s));
  const steps = Math.max(...rows.map((r) => r.cusp_mm.p95), 1e-6);
  const x = (r: HeightRow) => 40 + (r.time_s / most) * (w - 96);
  const y = (r: HeightRow) => h - 18 - (r.cusp_mm.p95 / steps) * (h - 30);
  return (
    <svg width={w} height={h} className="mt-1" role="img" aria-label="Steps against hours for each height">
      <line x1="40" x2={w} y1={h - 18} y2={h - 18} stroke="var(--thread)" /><line x1="40" x2="40" y1="6" y2={h - 18} stroke="var(--thread)" />
      <text x="0" y="14" fontSize="11" fill="var(--faded)">steps</text><text x={w} y={h - 4} fontSize="11" textAnchor="end" fill="var(--faded)">hours</text>
      <polyline points={rows.map((r) => `${x(r)},${y(r)}`).join(" ")} fill="none" stroke="var(--water)" />
      {rows.map((r, i) => (
        <g key={i} onClick={() => onOption(i)} className="cursor-pointer"><circle cx={x(r)} cy={y(r)} r={i === shown ? 6 : 4} fill={i === shown ? "var(--indigo)" : "var(--paper)"} stroke={i === best ? "var(--moss)" : "var(--indigo)"} strokeWidth="2" /><text x={x(r) + 10} y={y(r) + 1} fontSize="11" fill="var(--ink)">{r.layer_height_mm}</text></g>
      ))}
    </svg>
  );
}
