import { useState } from "react";
import { useHotkeys } from "react-hotkeys-hook";
import { Link } from "react-router";
import { useAnswer, type Drill, type Graded } from "./api";
import { howHard, letterOf, optionOf, pickedWith, saidOf } from "./letters";

interface Props {
  drill: Drill;
  at: string;
  last: boolean;
  onNext: (score: number) => void;
}

/** One question, then its key with reasons. A digit picks, Enter answers and goes on. */
export function Asked({ drill, at, last, onNext }: Props) {
  const [picked, setPicked] = useState<number[]>([]);
  const [text, setText] = useState("");
  const answer = useAnswer(drill);
  const graded = answer.data ?? null;
  const number = text.trim() === "" ? null : Number(text.replace(",", "."));
  const ready = drill.unit ? number != null && Number.isFinite(number) : picked.length > 0;
  const go = () => {
    if (graded) onNext(graded.score);
    else if (ready && !answer.isPending)
      answer.mutate({ picked: drill.unit ? [] : picked, number: drill.unit ? number : null });
  };
  const pick = (k: number) => !graded && setPicked((p) => pickedWith(p, k, drill.many));
  useHotkeys(
    "*",
    (e) => {
      const k = optionOf(e.key, drill.options.length);
      if (k >= 0 && !e.ctrlKey && !e.metaKey && !e.altKey) pick(k);
    },
    [drill.id, graded],
  );
  useHotkeys("enter", go, { enableOnFormTags: ["INPUT"], preventDefault: true }, [
    picked,
    text,
    graded,
    answer.isPending,
  ]);
  return (
    <section aria-label="The question" className="space-y-3">
      <p className="text-[12.5px] text-faded">
        {at} · {drill.skill} · {howHard(drill.chance)}
        {drill.again && " · again"}
        {drill.source !== "laws" && ` · ${drill.source}`}
      </p>
      <h2 className="max-w-[70ch] font-display text-[19px] leading-snug">{drill.text}</h2>
      {drill.pictures > 0 && !drill.a_picture_each && <Pictures drill={drill} />}
      {drill.unit ? (
        <label className="flex items-center gap-2">
          <span className="text-faded">Your answer</span>
          <input
            className="field w-24"
            inputMode="decimal"
            value={text}
            disabled={!!graded}
            // A question that asks for a number is answered by typing one.
            // eslint-disable-next-line jsx-a11y/no-autofocus
            autoFocus
            onChange={(e) => setText(e.target.value)}
          />
          {drill.unit}
        </label>
      ) : (
        <Options drill={drill} picked={picked} graded={graded} onPick={pick} />
      )}
      {graded && <Told drill={drill} graded={graded} />}
      <button
        type="button"
        className="take"
        disabled={!graded && (!ready || answer.isPending)}
        onClick={go}
      >
        {graded ? (last ? "How the round went" : "Next") : "That is my answer"}
      </button>
    </section>
  );
}

const srcOf = (drill: Drill, nth: number) => `/api/drills/${drill.id}/pictures/${nth}`;

function Pictures({ drill }: { drill: Drill }) {
  return (
    <div className="flex flex-wrap gap-3">
      {Array.from({ length: drill.pictures }, (_, nth) => (
        <img
          key={nth}
          src={srcOf(drill, nth)}
          alt={`The figure from side ${nth + 1}, places by letter`}
          className="h-[min(46vh,460px)] border border-thread bg-paper"
        />
      ))}
    </div>
  );
}

interface OptionsProps {
  drill: Drill;
  picked: number[];
  graded: Graded | null;
  onPick: (k: number) => void;
}

function Options({ drill, picked, graded, onPick }: OptionsProps) {
  return (
    <ul
      aria-label={drill.many ? "Pick all that are" : "Pick one"}
      className={drill.a_picture_each ? "flex flex-wrap gap-3" : "grid max-w-[860px] gap-1"}
    >
      {drill.options.map((text, k) => {
        const right = graded?.right.includes(k);
        return (
          <li key={k} className="flex flex-wrap items-baseline gap-x-3">
            <button
              type="button"
              aria-pressed={picked.includes(k)}
              disabled={!!graded}
              onClick={() => onPick(k)}
              className="quiet flex-col text-left"
            >
              {drill.a_picture_each && (
                <img src={srcOf(drill, k)} alt={`Pose ${letterOf(k)}`} className="h-[34vh]" />
              )}
              <span>
                <kbd>{letterOf(k)}</kbd> {text}
              </span>
            </button>
            {graded && (
              <span className={`text-[13.5px] ${right ? "text-indigo" : "text-faded"}`}>
                {graded.shown.length === drill.options.length && (
                  <img
                    src={srcOf(drill, graded.shown[k])}
                    alt={`What it comes to at ${letterOf(k)}`}
                    className="my-1 block h-36 border border-thread bg-paper"
                  />
                )}
                {right ? "✓ right. " : picked.includes(k) ? "✗ " : ""}
                <span className={drill.a_picture_each ? "block max-w-[250px]" : ""}>
                  {graded.reasons.at(k) ?? ""}
                </span>
              </span>
            )}
          </li>
        );
      })}
    </ul>
  );
}

function Told({ drill, graded }: { drill: Drill; graded: Graded }) {
  const { standing } = graded;
  return (
    <div role="status" className="max-w-[860px] border-l-4 border-indigo bg-paper px-4 py-2">
      <p className="font-medium">
        {saidOf(graded.score)}
        {graded.number != null && ` It is ${graded.number}${drill.unit ?? ""}.`}
        {graded.score > 0 &&
          graded.score < 0.999 &&
          ` Counted ${Math.round(graded.score * 100)} %.`}
      </p>
      <p>
        {graded.told}{" "}
        {drill.kind === "pose" && graded.plan_id != null && (
          <Link className="text-indigo underline" to={`/plan/${graded.plan_id}/pose?view=map`}>
            The map of all poses
          </Link>
        )}
      </p>
      <p className="mt-1 text-[12.5px] text-faded">
        {standing.skill[0].toUpperCase() + standing.skill.slice(1)}: right{" "}
        {Math.round(standing.share * 100)} % of the time, between {Math.round(standing.low * 100)}{" "}
        and {Math.round(standing.high * 100)}, by {standing.answers}{" "}
        {standing.answers === 1 ? "answer" : "answers"}.
      </p>
    </div>
  );
}
