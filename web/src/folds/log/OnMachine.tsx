import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, need, problemOf, type PlanState, type Schemas } from "../../api/client";
import { usePrintFile } from "../../api/boards";
import { clock, count } from "../../shell/format";
import { useView } from "../../shell/view";
import { foldOf } from "../types";
import { Waiting } from "../Waiting";
import { Stations } from "./Stations";

export type OnIt = Schemas["MachineState"];
/** What is followed of a machine, of a plan or of a plate. */
export type Progressing = Omit<OnIt, "run">;
export const UNDER_WAY = ["printing", "paused", "out of material"];
const POLL_MS = 1000;

/** What is on a simulated machine, looked at as long as it goes on; null where nothing is. */
export function useFollowed<S extends Progressing>(
  key: readonly unknown[],
  look: () => Promise<S>,
) {
  return useQuery({
    queryKey: key,
    queryFn: () =>
      look().catch((thrown: unknown) => {
        if (problemOf(thrown).code === "no-machine") return null;
        throw thrown;
      }),
    refetchInterval: ({ state }) =>
      state.data && UNDER_WAY.includes(state.data.state) ? POLL_MS : false,
    retry: false,
  });
}

/** The plan's own file on a simulated machine: started, followed live, and looked at when it has ended. */
export function OnMachine({
  plan,
  onStarted,
  onEnded,
}: {
  plan: PlanState;
  onStarted: () => void;
  onEnded: (state: OnIt) => void;
}) {
  const client = useQueryClient();
  const { fail } = useView();
  const [asked, setAsked] = useState(false);
  const file = usePrintFile(plan, asked);
  const key = ["machine", plan.id];
  const put = (state: OnIt) => client.setQueryData(key, state);
  const { data: on, error } = useFollowed(key, () =>
    need(api.GET("/api/plans/{number}/machine", { params: { path: { number: plan.id } } })),
  );
  const start = useMutation({
    mutationFn: () =>
      need(
        api.POST("/api/plans/{number}/machine", {
          params: { path: { number: plan.id } },
          body: { speed: 600 },
        }),
      ),
    onSuccess: (state) => {
      put(state);
      onStarted();
    },
    onError: fail,
  });
  const turn = useMutation({
    mutationFn: (to: "pause" | "resume" | "cancel") =>
      need(
        api.POST("/api/plans/{number}/machine/{turn}", {
          params: { path: { number: plan.id, turn: to } },
        }),
      ),
    onSuccess: put,
    onError: fail,
  });
  const process = foldOf(plan, "size").choice?.process;
  const going = !!on && UNDER_WAY.includes(on.state);
  return (
    <section aria-label="Simulated machine" className="mb-3 border border-thread p-3 text-[13.5px]">
      <Waiting of={file} what="Writing the machine's file, and reading it back" />
      <div className="flex flex-wrap items-center gap-3">
        {!going && !file.document && (
          <button
            type="button"
            className="quiet px-3 py-1.5"
            disabled={asked}
            onClick={() => {
              setAsked(true);
            }}
          >
            Try it on a simulated machine
          </button>
        )}
        {!going && file.document && (
          <button
            type="button"
            className="quiet px-3 py-1.5"
            disabled={start.isPending}
            onClick={() => {
              start.mutate();
            }}
          >
            {start.isPending ? "It reads the file" : "Print it there"}
          </button>
        )}
        {on && <State on={on} />}
        {error && (
          <span role="alert" className="text-persimmon">
            {problemOf(error).message}
          </span>
        )}
        {going && (
          <>
            <button
              type="button"
              className="quiet px-2 py-0.5"
              onClick={() => {
                turn.mutate(on.state === "paused" ? "resume" : "pause");
              }}
            >
              {on.state === "paused" ? "go on" : "hold"}
            </button>
            <button
              type="button"
              className="quiet px-2 py-0.5"
              onClick={() => {
                turn.mutate("cancel");
              }}
            >
              give it up
            </button>
          </>
        )}
        {on?.seen && (
          <button
            type="button"
            className="quiet px-2 py-0.5"
            onClick={() => {
              onEnded(on);
            }}
          >
            log what lies on the plate
          </button>
        )}
      </div>
      {!on && (
        <p className="mt-1 text-faded">
          A stand-in on this computer, 600 times as fast: it takes the very file, and fails as one
          of the thousand trial prints did.
        </p>
      )}
      <Stations plan={plan.id} printed={!!on?.seen || process === "filament"} />
    </section>
  );
}

/** How far it is, in words. */
export function saidOf(on: Progressing): string {
  const at = `${on.state}, layer ${count(on.layer)} of ${count(on.layers)}, ${clock(on.done_s)} of ${clock(on.of_s)}`;
  if (!on.seen) return `${at}.`;
  const { loss, layer, why } = on.seen;
  if (loss === "good") return `${at}. On the plate: whole.`;
  return `${at}. On the plate: ${loss}${layer == null ? "" : `, from layer ${count(layer)}`}${why ? `. ${why}` : ""}`;
}

export function State({ on }: { on: Progressing }) {
  return (
    <span className="flex min-w-0 flex-1 items-center gap-3" aria-live="polite">
      <span
        role="progressbar"
        aria-label="Printed"
        aria-valuemin={0}
        aria-valuemax={100}
        aria-valuenow={Math.round((100 * on.done_s) / (on.of_s || 1))}
        className="block h-1.5 w-32 shrink-0 bg-thread"
      >
        <span
          className="block h-full bg-indigo"
          style={{ width: `${(100 * on.done_s) / (on.of_s || 1)}%` }}
        />
      </span>
      <span>{saidOf(on)}</span>
    </span>
  );
}
