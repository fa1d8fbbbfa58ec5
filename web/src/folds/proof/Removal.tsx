import type { Schemas } from "../../api/client";

type Doc = Schemas["RemovalDoc"];
export type Group = Doc["groups"][number];

const SIDES: Record<Group["side"], string> = {
  front: "from its front",
  right: "from its right",
  back: "from its back",
  left: "from its left",
  below: "from below",
};

const tips = (n: number) => (n === 1 ? "one tip" : `${n} tips`);
const minutes = (v: number) => (v < 1 ? "under a minute" : `${v.toFixed(0)} min`);

/** What to do with a group, and how long that takes. */
export function groupLine(g: Group): string {
  const how = g.delicate
    ? "cut, do not snap: the part is no stouter than its tips"
    : "snap or cut, outermost first";
  return `${tips(g.tips.length)} ${SIDES[g.side]}: ${how}; ${minutes(g.minutes)}`;
}

interface Props {
  plan: number;
  data: Doc;
  picked: number | null;
  onPick: (group: number | null) => void;
}

/** In which order supports come off, from where, and what is in the way. */
export function Removal({ plan, data, picked, onPick }: Props) {
  if (!data.groups.length && !data.unreached.length)
    return <p className="text-[13px] text-faded">Nothing is to be taken off.</p>;
  return (
    <section aria-label="Taking supports off" className="mt-3 text-[13px]">
      <p className="text-faded">{data.when} Sides are the figure’s own. Priors.</p>
      <ol className="mt-1 list-decimal space-y-0.5 pl-5">
        {data.groups.map((g, i) => (
          <li key={`${g.side} ${g.delicate}`}>
            <button
              type="button"
              className="text-left underline decoration-thread underline-offset-2 aria-pressed:font-medium"
              aria-pressed={i === picked}
              title="show them on the figure"
              onClick={() => onPick(i === picked ? null : i)}
            >
              {groupLine(g)}
            </button>
          </li>
        ))}
      </ol>
      {data.unreached.length > 0 && (
        <p className="mt-1">
          A small cutter does not reach {tips(data.unreached.length)}: break{" "}
          {data.unreached.length === 1 ? "it" : "them"} off by the pillar, then pare with a blade.
        </p>
      )}
      {data.locked.length > 0 && (
        <p className="mt-1 text-persimmon">
          Locked in by the figure: {tips(data.locked.length)}, which come out in pieces only.
        </p>
      )}
      <p className="mt-1">
        <a className="text-indigo underline" href={`/api/plans/${plan}/stand`} download>
          Its supports alone, 3MF
        </a>{" "}
        end just short of the figure: printed by themselves they are a stand for it. For other
        programs,{" "}
        <a className="text-indigo underline" href={`/api/plans/${plan}/beams`} download>
          the same as beams
        </a>
        .
      </p>
    </section>
  );
}
