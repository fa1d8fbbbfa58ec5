import { useEffect } from "react";
import { api, need } from "../../api/client";
import type { Weak } from "../../api/documents";
import { useComputation } from "../../api/queries";
import { Swatch } from "../../patterns/Patterns";
import { mm } from "../../shell/format";
import { useView } from "../../shell/view";
import { Waiting } from "../Waiting";

interface Props { figure: number; printer: number; factor: number; way: string; tall: number; onWeak: (weak: Weak | null) => void; onPlace: (world: { x: number; y: number; z: number }, text: string) => void; onCure: (scale: number) => void }

/** Rods and sheets too thin to survive at this size, each with its cure. */
export function WeakParts({ figure, printer, factor, way, onWeak, onPlace, onCure }: Props) {
  const { setDye } = useView();
  const found = useComputation<Weak>(["weak", figure, printer, factor, way], () => need(api.GET("/api/figures/{number}/weak", { params: { path: { number: figure }, query: { printer, factor, way } } })));
  const weak = found.document;
  useEffect(() => { onWeak(weak); return () => onWeak(null); }, [weak]);
  return (
    <section aria-labelledby="weak">
      <h2 id="weak" className="mb-0.5 mt-3 text-[17px]">Too thin to survive at this size</h2>
      {!weak && <Waiting of={found} what="Measuring thickness" />}
      {weak && !weak.parts.length && <p className="text-moss">Nothing: walls hold from {mm(weak.limits.sheet)}, rods from {mm(weak.limits.rod)} (priors).</p>}
      {weak && weak.parts.length > 0 && (
        <>
          <p className="text-[13.5px] text-faded">Walls hold from {mm(weak.limits.sheet)}, rods from {mm(weak.limits.rod)} (priors). <button type="button" className="text-indigo underline" onClick={() => setDye("thickness")}>Dye the figure</button>{weak.cure < 4 && <> or <button type="button" className="text-indigo underline" onClick={() => onCure(weak.cure)}>print it at {(weak.cure * 100).toFixed(0)} %</button>, where all hold.</>}</p>
          <ul>
            {weak.parts.slice(0, 8).map((p, i) => (
              <li key={i} className="border-b border-thread/60">
                <button type="button" className="flex w-full items-baseline gap-2.5 py-0.5 text-left hover:bg-paper" onClick={() => onPlace(p, `${p.kind} ${mm(p.thickness)} thin`)}>
                  <Swatch code="thin" size={13} /><span className="w-11 shrink-0">{p.kind}</span><span className="w-28 shrink-0">{mm(p.thickness)} of {p.limit.toFixed(2)}</span><span className="w-24 shrink-0 text-faded">{mm(p.extent, 1)} long</span><span className="min-w-0 truncate text-faded" title={p.remedies.join("; ")}>{p.remedies.join("; ")}</span>
                </button>
              </li>
            ))}
          </ul>
          {weak.parts.length > 8 && <p className="text-[13px] text-faded">and {weak.parts.length - 8} less weak</p>}
        </>
      )}
    </section>
  );
}
