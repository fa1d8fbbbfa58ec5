import { useEffect, useState } from "react";
import { useQueryClient } from "@tanstack/react-query";
import { api, need, Problem, problemOf } from "../api/client";
import { day, hour } from "../shell/format";
import { Crumbs } from "../shell/Header";
import { Trouble } from "../shell/Trouble";
import { useView } from "../shell/view";
import { Asked } from "./Asked";
import { Skills } from "./Skills";
import { useDrills, useMaking, useRound, type Drill, type State } from "./api";
import { saidOf } from "./letters";

/** The eye, trained: rounds of five that the engine asks and grades. */
export function DrillsPage() {
  const state = useDrills();
  const round = useRound();
  const [at, setAt] = useState(0);
  const [scores, setScores] = useState<number[]>([]);
  useEffect(() => {
    document.title = "Drills · Tenugui";
  }, []);
  if (state.error) return <Trouble problem={problemOf(state.error)} />;
  const drills = round.data ?? [];
  const begin = () =>
    round.mutate(undefined, {
      onSuccess: () => {
        setAt(0);
        setScores([]);
      },
    });
  const drill = drills.at(at);
  const done = drills.length > 0 && at >= drills.length;
  return (
    <main className="min-h-0 flex-1 overflow-y-auto px-8 py-5 max-[1100px]:px-5">
      <Crumbs trail={[{ text: "Drills" }]} />
      {drill && !done ? (
        <Asked
          key={`${drill.id} ${at}`}
          drill={drill}
          at={`Question ${at + 1} of ${drills.length}`}
          last={at === drills.length - 1}
          onNext={(score) => {
            setScores([...scores, score]);
            setAt(at + 1);
          }}
        />
      ) : (
        <>
          <h1 className="text-[27px] leading-tight">What do you see?</h1>
          <p className="mb-4 max-w-[90ch] text-faded">
            Questions that the engine makes of your own figures and of the laws of the craft, and
            grades by the same numbers that it plans with. Five at a time; what was missed comes
            again.
          </p>
          {done && <Went drills={drills} scores={scores} />}
          {state.data && <Hall state={state.data} busy={round.isPending} onBegin={begin} />}
        </>
      )}
    </main>
  );
}

function Went({ drills, scores }: { drills: Drill[]; scores: number[] }) {
  return (
    <section aria-label="How the round went" className="mb-5 max-w-[860px]">
      <h2 className="text-[18px]">
        {scores.filter((s) => s >= 0.75).length} of {drills.length} right
      </h2>
      <ol>
        {drills.map((d, k) => (
          <li key={k} className="flex gap-3 border-b border-thread py-1 text-[13.5px]">
            <span className="w-20 shrink-0">{saidOf(scores[k])}</span>
            <span>{d.text}</span>
          </li>
        ))}
      </ol>
    </section>
  );
}

function Hall({ state, busy, onBegin }: { state: State; busy: boolean; onBegin: () => void }) {
  const waits = state.due
    ? `${state.due} that ${state.due === 1 ? "was" : "were"} asked before ${state.due === 1 ? "waits" : "wait"}.`
    : state.next_due
      ? `What was asked before rests until ${day(state.next_due)}, ${hour(state.next_due)}.`
      : "None was asked yet.";
  return (
    <div className="flex flex-wrap items-start gap-x-12 gap-y-6">
      <section aria-label="A round" className="min-w-80 flex-1 space-y-4">
        <button type="button" className="take" disabled={busy} onClick={onBegin}>
          A round of five
        </button>
        <p className="text-faded">
          {state.drills ? `${state.drills} drills are here.` : "The laws of the craft come first."}{" "}
          {waits}
        </p>
        <Skills rows={state.skills} />
      </section>
      <Sources state={state} />
    </div>
  );
}

function Sources({ state }: { state: State }) {
  const making = useMaking();
  const client = useQueryClient();
  const { fail, say } = useView();
  const take = (file: File) => {
    void (async () => {
      try {
        const text = await file.text();
        let body: never;
        try {
          body = JSON.parse(text) as never;
        } catch {
          throw new Problem(
            "no-set",
            `${file.name} is no JSON.`,
            "A set of drills is a file that this page wrote.",
          );
        }
        const many = await need(api.POST("/api/drills/set", { body }));
        say({ text: many === 1 ? "One new drill came." : `${many} new drills came.` });
        await client.invalidateQueries({ queryKey: ["drills"] });
      } catch (error) {
        fail(error);
      }
    })();
  };
  const away = (source: string) => {
    need(api.DELETE("/api/drills", { params: { query: { source } } }))
      .then(() => client.invalidateQueries({ queryKey: ["drills"] }))
      .catch(fail);
  };
  const answered = state.skills.some((s) => s.answers > 0);
  return (
    <section aria-label="Where drills come from" className="min-w-80 flex-1 space-y-3">
      <h2 className="text-[18px]">Of which figures</h2>
      <ul>
        {state.sources.map((s) => (
          <li key={s.source} className="flex items-baseline gap-4 border-b border-thread py-1.5">
            <span>{s.source === "laws" ? "the laws of the craft" : s.source}</span>
            <span className="ml-auto text-faded">{s.drills}</span>
            {!s.own && (
              <button
                type="button"
                className="text-[12.5px] text-faded underline"
                aria-label={`Delete the drills of ${s.source}`}
                onClick={() => away(s.source)}
              >
                delete
              </button>
            )}
          </li>
        ))}
        {state.offers.map((o) => (
          <li key={o.plan_id} className="flex items-baseline gap-4 border-b border-thread py-1.5">
            <span>{o.figure_name}</span>
            <span className="ml-auto">
              {making.plan === o.plan_id ? (
                <span role="status" className="text-faded">
                  {making.doing}
                </span>
              ) : (
                <button
                  type="button"
                  className="quiet px-2.5 py-0.5 text-[13px]"
                  disabled={making.plan != null}
                  onClick={() => making.start(o.plan_id)}
                >
                  make drills of it
                </button>
              )}
            </span>
          </li>
        ))}
      </ul>
      {state.offers.length === 0 && state.sources.every((s) => s.own) && (
        <p className="text-faded">Accept a plan in Proof, and drills can be made of it.</p>
      )}
      <p className="flex flex-wrap items-center gap-3 text-[13.5px]">
        {answered && (
          <a className="quiet" href="/api/drills/set" download>
            What I answered, as a set for others
          </a>
        )}
        <label className="quiet cursor-pointer">
          Take a set in
          <input
            type="file"
            accept=".json,application/json"
            className="sr-only"
            onChange={(e) => {
              const file = e.target.files?.item(0);
              if (file) take(file);
              e.target.value = "";
            }}
          />
        </label>
      </p>
    </section>
  );
}
