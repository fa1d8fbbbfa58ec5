import { Component, type ReactNode } from "react";
import { problemOf, type Problem } from "../api/client";

/** What went wrong with a whole page, and a way on. */
export function Trouble({ problem, again }: { problem: Problem; again?: () => void }) {
  return (
    <div role="alert" className="m-10 max-w-xl border-l-4 border-persimmon bg-paper p-5">
      <h1 className="text-xl">{problem.message}</h1>
      <p className="mt-1 text-faded">{problem.remedy}</p>
      <p className="mt-3 flex gap-5">
        {again && (
          <button type="button" className="text-indigo underline" onClick={again}>
            Load it again
          </button>
        )}
        <a className="text-indigo underline" href="/">
          To the bench
        </a>
      </p>
    </div>
  );
}

/** Keeps a fault of one page from taking the others with it. */
export class Boundary extends Component<{ children: ReactNode }, { problem: Problem | null }> {
  state: { problem: Problem | null } = { problem: null };

  static getDerivedStateFromError(thrown: unknown) {
    return { problem: problemOf(thrown) };
  }

  render() {
    if (!this.state.problem) return this.props.children;
    return <Trouble problem={this.state.problem} again={() => location.reload()} />;
  }
}
