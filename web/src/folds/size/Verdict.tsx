import { inCoins } from "../../shell/coin";
import type { Finding, Intake, Mend, Place, Way } from "../../api/client";
import type { Computed } from "../../api/queries";
import { useStuff } from "../../api/queries";
import { count, mm } from "../../shell/format";
import { Choice } from "../../ui/Choice";
import { Waiting } from "../Waiting";

interface Props {
  intake: Intake;
  factor: number;
  way: Way;
  onWay: (way: Way) => void;
  made: Computed<Mend>;
  onPlace: (place: Place, text: string) => void;
  /** What the copy would be made of, once they are chosen. */
  on: { printer_id: number; material_id: number } | null;
}

const WAYS: Record<Way, [string, string]> = {
  ready: [
    "Ready to work on",
    "mended where it is broken, loose specks left out; the file always stays",
  ],
  whole: ["With its specks", "mended, and every loose speck kept"],
  original: ["As it came", "nothing mended: what is broken goes into the layers as it is"],
  united: ["Shells united", "mended, and one surface of overlapping shells"],
  remeshed: ["New surface", "the last resort: around what counts as inside"],
  floored: [
    "Given a floor",
    "its opening closed by a floor as thick as its wall: what is inside is shut in, and Hollow finds it",
  ],
  filled: ["Filled", "its inside filled from the rim on; the outside stays as it is"],
  bare: ["Without its supports", "and what they leave open closed"],
};
const BROKEN = [
  "open-edges",
  "turned-faces",
  "inside-out-shell",
  "double-faces",
  "crowded-edges",
  "zero-area",
];

const OPENS = { foot: "at its foot", top: "at its top", side: "at a side" } as const;

/** In plain words: may this be printed as it is? `factor`: from the file's units to mm. */
export function verdict(intake: Intake, factor: number): { text: string; good: boolean } {
  const { props, ready, health, shell } = intake;
  if (ready.refused) return { good: false, text: `${ready.refused.what} ${ready.refused.remedy}` };
  if (props)
    return {
      good: false,
      text:
        `It comes with ${props.count} supports${props.raft ? " and a raft" : ""} of its own. ` +
        "Keep them knowingly, or take them off.",
    };
  const specks = ready.specks
    ? `${ready.specks} loose speck${ready.specks > 1 ? "s are" : " is"} left out. `
    : "";
  if (shell)
    return {
      good: true,
      text:
        `${specks}A shell of about ${mm(shell.wall_mm * factor, 1)}, open ${OPENS[shell.opens]}. ` +
        (shell.opens === "side"
          ? "It prints as the shell it is."
          : "Keep it so, give it a floor, or fill it: choose the copy below."),
    };
  if (ready.steps.length)
    return {
      good: true,
      text: `${specks}It came broken and was mended: see what was changed below.`,
    };
  if (health.shells > 1)
    return { good: true, text: `${specks}Sound. Where its shells overlap, that is counted once.` };
  return { good: true, text: "Sound: closed all round and turned outwards." };
}

function ways({ health, ready, props, shell }: Intake): Way[] {
  const broken = health.findings.some((f) => BROKEN.includes(f.code));
  const found: Way[] = ready.refused ? [] : ["ready"];
  if (props) found.push("bare");
  if (ready.specks) found.push("whole");
  if (health.shells > 1) found.push("united");
  if (broken) found.push("remeshed");
  if (shell && shell.opens !== "side") found.push("floored", "filled");
  if (ready.steps.length || ready.specks || ready.refused) found.push("original");
  return found;
}

export function Verdict({ intake, factor, way, onWay, made, onPlace, on }: Props) {
  const offered = ways(intake);
  const mend = way === "ready" ? null : made.document;
  const shown: Finding[] = mend ? mend.findings : intake.health.findings;
  const cuts = intake.cuts.flatMap((c) => c.fits.map((f) => ({ fit: f, area: c.area })));
  const steps = way === "ready" ? intake.ready.steps : (mend?.repair.steps ?? []);
  return (
    <section aria-labelledby="brought">
      <h2 id="brought" className="mb-0.5 text-[17px]">
        What the file brought with it
      </h2>
      {!shown.length && <p className="text-faded">Nothing that needs telling.</p>}
      <ul className="mt-1">
        {shown.map((f) => (
          <Row
            key={f.code}
            lead={
              <span className={f.severity === "warning" ? "text-persimmon" : "text-faded"}>
                {count(f.count)}
              </span>
            }
            text={f.message}
            go={f.place ? () => onPlace(f.place as Place, f.message) : undefined}
          />
        ))}
        {cuts.map(({ fit, area }) => (
          <Row
            key={fit.place.join()}
            lead={<span className="text-faded">{fit.kind}</span>}
            text={fitLine(fit, area, factor)}
            go={() => onPlace(fit.place, `${fit.kind}, ${mm(fit.reach * factor, 1)}`)}
          />
        ))}
      </ul>
      {offered.length > 1 && (
        <>
          <Choice
            label="Which copy"
            value={way}
            options={offered.map((w) => ({ value: w, text: WAYS[w][0], tip: WAYS[w][1] }))}
            onValue={onWay}
            className="mt-2"
          />
          <p className="mt-1 text-[12.5px] text-faded">{WAYS[way][1]}</p>
        </>
      )}
      {way !== "ready" && <Waiting of={made} what={WAYS[way][0]} />}
      {mend && on && (
        <CopyPrice
          was={intake.ready.volume_mm3 * factor ** 3}
          now={mend.repair.volume_mm3 * factor ** 3}
          on={on}
        />
      )}
      {(steps.length > 0 || mend) && <Changes steps={steps} mend={mend} factor={factor} />}
    </section>
  );
}

function Row({ lead, text, go }: { lead: React.ReactNode; text: string; go?: () => void }) {
  return (
    <li className="border-b border-thread/60">
      <button
        type="button"
        disabled={!go}
        onClick={go}
        className="flex w-full gap-3 py-0.5 text-left enabled:hover:bg-paper disabled:opacity-100"
      >
        <span className="w-14 shrink-0 text-right text-[13px]">{lead}</span>
        <span>{text}</span>
        {go && <span className="ml-auto text-[12.5px] text-indigo">show</span>}
      </button>
    </li>
  );
}

/** What a copy is made of beside what is ready, in ml and coins. */
function CopyPrice({ was, now, on }: { was: number; now: number; on: NonNullable<Props["on"]> }) {
  const before = useStuff(on, was);
  const after = useStuff(on, now);
  if (!before || !after) return null;
  return (
    <p className="mt-1 text-[13px]" aria-live="polite">
      It takes {after.ml.toFixed(1)} ml and {inCoins(after.coins)} of material, where what is ready
      takes {before.ml.toFixed(1)} and {before.coins.toFixed(2)}
      {after.ml > 1.5 * before.ml ? "; Hollow takes most of it out again" : ""} (by volume; on
      filament walls and infill are a prior).
    </p>
  );
}

type Step = Intake["ready"]["steps"][number];

/** What a step has changed, at the printed size. */
function changeOf(s: Step, factor: number): string {
  const volume = (s.volume_mm3 ?? 0) * factor ** 3;
  return [
    s.added && `${count(s.added)} faces added`,
    s.removed && `${count(s.removed)} removed`,
    s.volume_mm3 != null && `volume ${volume >= 0 ? "+" : "−"}${Math.abs(volume).toFixed(1)} mm³`,
    s.deviation_mm > 0 && `surface moved at most ${(s.deviation_mm * factor).toFixed(3)} mm`,
  ]
    .filter(Boolean)
    .join(", ");
}

function Changes({ steps, mend, factor }: { steps: Step[]; mend: Mend | null; factor: number }) {
  const open = mend && !mend.repair.watertight;
  return (
    <div className="mt-1.5 border-l-4 border-indigo bg-paper px-3 py-1.5 text-[13.5px]">
      {!steps.length && <p>Nothing was changed.</p>}
      {steps.map((s) => (
        <p key={s.code}>
          {s.message} <span className="text-faded">{changeOf(s, factor)}</span>
        </p>
      ))}
      {mend && (
        <p className={open ? "text-persimmon" : "text-moss"}>
          {open ? `${count(mend.repair.open_left)} edges are open.` : "Closed all round."}
        </p>
      )}
    </div>
  );
}

function fitLine(
  fit: Intake["cuts"][number]["fits"][number],
  area: number,
  factor: number,
): string {
  const where = fit.kind === "peg" ? "proud of" : "into";
  const face = `a flat face of ${(area * factor * factor).toFixed(0)} mm²`;
  return `${mm(fit.reach * factor, 1)} ${where} ${face}: a fit, and a hidden face.`;
}
