import type { FigureRow } from "../api/client";

export interface Step {
  text: string;
  why: string;
  done: boolean;
  to: string;
}

const FOLDS = ["size", "marks", "pose", "hollow", "walls", "supports", "layers", "proof", "log"];
const place = (f: FigureRow) => (f.next ? FOLDS.indexOf(f.next.name) : 0);

/** The figure that has come farthest. */
export const farthest = (rows: FigureRow[]): FigureRow | undefined =>
  [...rows].sort((a, b) => place(b) - place(a)).find((f) => f.plan_id != null);

/** The first hour: what was done of it is read off the bench itself, so that it goes on wherever one left it. */
export function stepsOf(
  rows: FigureRow[],
  runs: { result?: string | null }[],
  drilled: boolean,
): Step[] {
  const first = farthest(rows);
  const at = first ? place(first) : -1;
  const to = (fold: string) => (first ? `/plan/${first.plan_id}/${fold}` : "/?bring=1");
  return [
    {
      text: "Bring in a figure",
      why: "Drop its file on this page. It is examined and, where it is broken, mended.",
      done: rows.length > 0,
      to: "/?bring=1",
    },
    {
      text: "Say how tall it is to be, and on which machine",
      why: "Everything after is counted for that size: what is too thin, what fits, how long it takes.",
      done: at > 0,
      to: to("size"),
    },
    {
      text: "Choose a pose",
      why: "Which way up decides most of what follows: scars, hours, and what may be lost.",
      done: at > FOLDS.indexOf("pose"),
      to: to("pose"),
    },
    {
      text: "Choose its supports",
      why: "What starts in mid air must be held; every set is proved layer by layer before you choose.",
      done: at > FOLDS.indexOf("supports"),
      to: to("supports"),
    },
    {
      text: "Choose the layers' height, and accept the proof",
      why: "Walk through the layers once: it is the best habit of the craft.",
      done: at >= FOLDS.indexOf("log"),
      to: to(at > FOLDS.indexOf("layers") ? "proof" : "layers"),
    },
    {
      text: "Print it, and say what became of it",
      why: "The log makes every next plan better than what anybody believes in general.",
      done: runs.some((r) => r.result),
      to: to("log"),
    },
    {
      text: "Train the eye on it",
      why: "Five questions that the engine asks of your own figure, and grades.",
      done: drilled,
      to: "/drills",
    },
  ];
}
