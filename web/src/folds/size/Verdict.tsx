import { api, need } from "../../api/client";
import type { Finding, Intake, Mend, Triple, Way } from "../../api/documents";
import { useComputation } from "../../api/queries";
import { count, mm } from "../../shell/format";
import { Waiting } from "../Waiting";

interface Props { figure: number; intake: Intake; factor: number; way: Way; onWay: (way: Way) => void; mend: Mend | null; onMend: (mend: Mend | null) => void; onPlace: (place: Triple, text: string) => void }

const WAYS: Record<Exclude<Way, "original">, [string, string]> = {
  repaired: ["Repair", "weld, drop, turn and fill"],
  united: ["Unite shells", "repair, and one surface of overlapping shells"],
  remeshed: ["New surface", "the last resort: around what counts as inside"],
  bare: ["Take its supports off", "and close what they leave open"],
};

/** In plain words: may this be printed as it is? */
export function verdict(intake: Intake): { text: string; good: boolean } {
  const worst = intake.findings.filter((f) => f.severity === "warning" && f.code !== "unit");
  if (intake.props) return { good: false, text: `It comes with ${intake.props.count} supports${intake.props.raft ? " and a raft" : ""} of its own. Keep them knowingly, or take them off.` };
  if (!worst.length) return { good: true, text: intake.shells > 1 ? "Sound. Where its shells overlap, that is counted once." : "Sound: closed all round and turned outwards." };
  return { good: false, text: "It can be read, but not trusted: repair it first." };
}

function ways(intake: Intake): Exclude<Way, "original">[] {
  const broken = intake.findings.some((f) => ["open-edges", "turned-faces", "inside-out-shell", "double-faces", "crowded-edges", "zero-area"].includes(f.code));
  return [...(intake.props ? (["bare"] as const) : []), ...(broken ? (["repaired"] as const) : []), ...(intake.shells > 1 ? (["united"] as const) : []), ...(broken && !intake.watertight ? (["remeshed"] as const) : [])];
}

export function Verdict({ figure, intake, factor, way, onWay, mend, onMend, onPlace }: Props) {
  const offered = ways(intake);
  const made = useComputation<Mend>(["mend", figure, way], async () => {
    const answer = await need(api.GET("/api/figures/{number}/mend/{way}", { params: { path: { number: figure, way: way as Exclude<Way, "original"> } } }));
    if (answer.document) onMend(answer.document as unknown as Mend);
    return answer;
  }, way !== "original");
  const shown: Finding[] = mend ? mend.findings : intake.findings;
  return (
    <section aria-labelledby="brought">
      <h2 id="brought" className="mb-0.5 text-[17px]">What the file brought with it</h2>
      {!shown.length && <p className="text-faded">Nothing that needs telling.</p>}
      <ul className="mt-1">
        {shown.map((f) => (
          <li key={f.code} className="border-b border-thread/60">
            <button type="button" disabled={!f.place} onClick={() => f.place && onPlace(f.place, f.message)} className="flex w-full gap-3 py-0.5 text-left disabled:opacity-100 enabled:hover:bg-paper" title={f.place ? "Turn the table there" : undefined}>
              <span className={`w-14 shrink-0 text-right text-[13px] ${f.severity === "warning" ? "text-persimmon" : "text-faded"}`}>{count(f.count)}</span><span>{f.message}</span>{f.place && <span className="ml-auto text-[12.5px] text-indigo">show</span>}
            </button>
          </li>
        ))}
        {intake.cuts.flatMap((c, i) => c.fits.map((f, k) => (
          <li key={`${i}-${k}`} className="border-b border-thread/60"><button type="button" onClick={() => onPlace(f.place, `${f.kind}, ${mm(f.reach * factor, 1)}`)} className="flex w-full gap-3 py-0.5 text-left hover:bg-paper"><span className="w-14 shrink-0 text-right text-[13px] text-faded">{f.kind}</span><span>{mm(f.reach * factor, 1)} {f.kind === "peg" ? "proud of" : "into"} a flat face of {(c.area * factor * factor).toFixed(0)} mm²: a fit, and a hidden face.</span><span className="ml-auto text-[12.5px] text-indigo">show</span></button></li>
        )))}
      </ul>
      {offered.length > 0 && (
        <div className="mt-2 flex flex-wrap items-center gap-1.5" role="radiogroup" aria-label="Which copy">
          <button type="button" role="radio" aria-checked={way === "original"} aria-pressed={way === "original"} className="quiet px-2.5" onClick={() => { onMend(null); onWay("original"); }}>The original</button>
          {offered.map((w) => <button key={w} type="button" role="radio" aria-checked={way === w} aria-pressed={way === w} title={WAYS[w][1]} className="quiet px-2.5" onClick={() => { onMend(null); onWay(w); }}>{WAYS[w][0]}</button>)}
          <span className="text-[12.5px] text-faded">{way === "original" ? "the original always stays" : WAYS[way][1]}</span>
        </div>
      )}
      {way !== "original" && <Waiting of={made} what={WAYS[way][0]} />}
      {mend && (
        <div className="mt-1.5 border-l-4 border-indigo bg-paper px-3 py-1.5 text-[13.5px]">
          {mend.steps.length === 0 && <p>Nothing had to be changed.</p>}
          {mend.steps.map((s) => (
            <p key={s.code}>{s.message} <span className="text-faded">{[s.added && `${count(s.added)} faces added`, s.removed && `${count(s.removed)} removed`, s.volume_mm3 != null && `volume ${s.volume_mm3 * factor ** 3 >= 0 ? "+" : "−"}${Math.abs(s.volume_mm3 * factor ** 3).toFixed(1)} mm³`, s.deviation_mm > 0 && `surface moved at most ${(s.deviation_mm * factor).toFixed(3)} mm`].filter(Boolean).join(", ")}</span></p>
          ))}
          <p className={mend.watertight ? "text-moss" : "text-persimmon"}>{mend.watertight ? "Closed all round now." : `${count(mend.open_left)} edges are still open: try a new surface.`}</p>
        </div>
      )}
    </section>
  );
}
