import type { ReactNode } from "react";
import { Link } from "react-router";
import type { PlanState } from "../api/client";
import { Explained } from "../words/Explained";

interface HeadingProps {
  title: string;
  line: ReactNode;
  said?: { good: boolean; text: string };
}

/** The fold's question, and one line of evidence. */
export function Heading({ title, line, said }: HeadingProps) {
  return (
    <div className="mb-2">
      <h1 className="text-[23px] leading-tight">{title}</h1>
      <p className="max-w-[78ch] text-faded">
        {typeof line === "string" ? <Explained text={line} /> : line}
        {said && <span className={said.good ? "text-moss" : "text-persimmon"}>{said.text}</span>}
      </p>
    </div>
  );
}

/** A fold that waits for an earlier one says which, and leads there. */
export function NotYet({ plan, fold, line }: { plan: PlanState; fold: string; line: string }) {
  const place = plan.folds.findIndex((f) => f.name === fold);
  const before = plan.folds
    .slice(0, place)
    .find((f) => f.state !== "settled" && !["marks", "hollow", "walls"].includes(f.name));
  return (
    <>
      <Heading title={plan.folds[place].question} line={line} />
      {before && (
        <div className="mt-2 border-l-4 border-thread bg-paper px-4 py-3">
          <p>
            {before.state === "stale"
              ? `${before.title} was decided for something that has changed since.`
              : `${before.title} comes first.`}
          </p>
          <Link className="take mt-3 inline-block" to={`/plan/${plan.id}/${before.name}`}>
            Go to {before.title}
          </Link>
        </div>
      )}
    </>
  );
}

/** What a row is called, and what is to be said of it. */
export function RowName({
  name,
  recommended,
  taken,
  more,
  line,
}: {
  name: ReactNode;
  recommended?: boolean;
  taken?: boolean;
  more?: ReactNode;
  line?: ReactNode;
}) {
  return (
    <>
      <span className="block text-[15px] font-medium">
        <span className="whitespace-nowrap">{name}</span>{" "}
        {recommended && (
          <span className="ml-1 text-[12.5px] font-normal text-moss">recommended</span>
        )}{" "}
        {taken && <span className="ml-1 text-[12.5px] font-normal text-indigo">taken</span>} {more}
      </span>
      {line && <span className="block text-[12.5px] leading-snug text-faded">{line}</span>}
    </>
  );
}

/** The line that stays in view below a board, with the button that decides. */
export function Deciding({ said, children }: { said: ReactNode; children: ReactNode }) {
  return (
    <div className="deciding sticky bottom-0 mt-1 flex flex-wrap items-center justify-between gap-x-4 gap-y-2 border-t border-thread bg-cotton py-2">
      <span className="min-w-[180px] flex-1 text-[13px] text-faded">{said}</span>
      <span className="flex flex-wrap gap-2">{children}</span>
    </div>
  );
}

interface TakeProps {
  may: boolean;
  onTake: () => void;
  children: ReactNode;
}

/** The button that decides. */
export function Take({ may, onTake, children }: TakeProps) {
  return (
    <button type="button" className="take" disabled={!may} onClick={onTake}>
      {children}
    </button>
  );
}
