import { useEffect } from "react";
import type { Way, Weak } from "../../api/client";
import { useWeak } from "../../api/figure";
import { Swatch } from "../../patterns/Patterns";
import { mm } from "../../shell/format";
import { useView } from "../../shell/view";
import { Waiting } from "../Waiting";

interface Props {
  figure: number;
  printer: number;
  factor: number;
  way: Way;
  onWeak: (weak: Weak | null) => void;
  onPlace: (world: { x: number; y: number; z: number }, text: string) => void;
  onCure: (scale: number) => void;
}

const SHOWN = 8;
const SENSIBLE = 4;

/** Rods and sheets too thin to survive at this size, each with its cure. */
export function WeakParts({ figure, printer, factor, way, onWeak, onPlace, onCure }: Props) {
  const { setDye } = useView();
  const found = useWeak(figure, printer, factor, way);
  const weak = found.document;
  useEffect(() => {
    onWeak(weak);
    return () => onWeak(null);
  }, [weak, onWeak]);
  return (
    <section aria-labelledby="weak">
      <h2 id="weak" className="mt-3 mb-0.5 text-[17px]">
        Too thin to survive at this size
      </h2>
      {!weak && <Waiting of={found} what="Measuring thickness" />}
      {weak && !weak.parts.length && <p className="text-moss">Nothing: {limitsOf(weak)}.</p>}
      {weak && weak.edges > 0 && (
        <p className="text-[13px] text-faded">
          {weak.edges === 1 ? "An edge is" : `${weak.edges} edges are`} sharper than that: they come
          out rounded, and nothing breaks off with them.
        </p>
      )}
      {weak && weak.parts.length > 0 && (
        <>
          <p className="text-[13.5px] text-faded">
            {limitsOf(weak)}.{" "}
            <button
              type="button"
              className="text-indigo underline"
              onClick={() => setDye("thickness")}
            >
              Dye the figure
            </button>
            {weak.cure < SENSIBLE && (
              <>
                {" "}
                or{" "}
                <button
                  type="button"
                  className="text-indigo underline"
                  onClick={() => onCure(weak.cure)}
                >
                  print it at {(weak.cure * 100).toFixed(0)} %
                </button>
                , where all hold.
              </>
            )}
          </p>
          <ul>
            {weak.parts.slice(0, SHOWN).map((p) => (
              <li key={`${p.x} ${p.y} ${p.z}`} className="border-b border-thread/60">
                <button
                  type="button"
                  className="flex w-full flex-wrap items-baseline gap-x-2.5 py-0.5 text-left hover:bg-paper"
                  onClick={() => onPlace(p, `${p.kind} ${mm(p.thickness)} thin`)}
                >
                  <Swatch code="thin" size={13} />
                  <span className="w-11 shrink-0">{p.kind}</span>
                  <span className="w-28 shrink-0">
                    {mm(p.thickness)} of {p.limit.toFixed(2)}
                  </span>
                  <span className="w-24 shrink-0 text-faded">{mm(p.extent, 1)} long</span>
                  <span className="min-w-0 text-faded">{p.remedies.join("; ")}</span>
                </button>
              </li>
            ))}
          </ul>
          {weak.parts.length > SHOWN && (
            <p className="text-[13px] text-faded">and {weak.parts.length - SHOWN} less weak</p>
          )}
        </>
      )}
    </section>
  );
}

const limitsOf = ({ limits }: Weak) =>
  `Walls hold from ${mm(limits.sheet ?? 0)}, rods from ${mm(limits.rod ?? 0)} (priors)`;
