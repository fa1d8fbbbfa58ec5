import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { useProof } from "../api/boards";
import { api, need, type Run, type Schemas } from "../api/client";
import { usePlanRuns } from "../api/queries";
import { clock, day, hour, percent, timesPlanned } from "../shell/format";
import { useView } from "../shell/view";
import { useStage } from "./board";
import { Heading } from "./Heading";
import { BestKnown } from "./log/BestKnown";
import { OnMachine, type OnIt } from "./log/OnMachine";
import { OutcomeForm, REMOVAL } from "./log/OutcomeForm";
import { foldOf, type FoldProps } from "./types";

function lineOf(log: Schemas["Log"] | undefined): string {
  if (!log?.runs.length)
    return "No run of this plan yet. Every outcome you log makes the next plan's numbers yours.";
  const { time_ratio, timed } = log.reading;
  const took = time_ratio ? `; they took ${timesPlanned(time_ratio)}, on average of ${timed}` : "";
  return `${log.runs.length} run${log.runs.length > 1 ? "s" : ""} of this plan${took}.`;
}

export function LogFold({ plan, show }: FoldProps) {
  const accepted = foldOf(plan, "proof").state === "settled";
  const proof = useProof(plan, accepted);
  const log = usePlanRuns(plan.id).data;
  const client = useQueryClient();
  const { fail, say } = useView();
  const [open, setOpen] = useState<number | null>(null);
  const [ended, setEnded] = useState<OnIt | null>(null);
  const row = proof.document?.held;
  useStage(
    show,
    {
      items: [
        { kind: "figure", sha: null, matrix: row?.matrix },
        ...(row?.supports_sha ? [{ kind: "supports" as const, sha: row.supports_sha }] : []),
      ],
      foot: row
        ? { kind: "strip", data: row.strip }
        : { kind: "empty", text: "The ribbon of the accepted plan lies here." },
    },
    [row],
  );
  const refresh = () => void client.invalidateQueries({ queryKey: ["runs"] });
  const start = useMutation({
    mutationFn: () =>
      need(
        api.POST("/api/plans/{number}/runs", { params: { path: { number: plan.id } }, body: {} }),
      ),
    onSuccess: (id) => {
      refresh();
      setOpen(id);
      say({ text: "Run started. Write down what became of it when it is off the plate." });
    },
    onError: fail,
  });
  const done = () => {
    refresh();
    setOpen(null);
    say({ text: "Outcome logged." });
  };
  return (
    <>
      <Heading title={foldOf(plan, "log").question} line={lineOf(log)} />
      <div className="mb-3 flex flex-wrap items-center gap-3">
        <button
          type="button"
          className="take px-6 py-3 text-[16px]"
          disabled={!accepted || start.isPending}
          onClick={() => start.mutate()}
        >
          Start a run now
        </button>
        {accepted && (
          <Link className="text-indigo underline" to={`/off/${plan.id}`}>
            Off the plate: what comes next
          </Link>
        )}
        {!accepted && (
          <span className="text-[13.5px] text-faded">
            Accept the proof first; then a run can be started.
          </span>
        )}
      </div>
      {accepted && (
        <OnMachine
          plan={plan}
          onStarted={refresh}
          onEnded={(on) => {
            setEnded(on);
            setOpen(on.run);
          }}
        />
      )}
      <ul className="space-y-2">
        {log?.runs.map((run) => (
          <li key={run.id} className="border border-thread bg-paper px-4 py-2.5">
            <RunLine
              run={run}
              open={open === run.id}
              onOpen={() => setOpen(open === run.id ? null : run.id)}
            />
            {open === run.id && (
              <OutcomeForm
                key={ended?.run === run.id ? "seen" : "open"}
                run={run}
                done={done}
                seen={ended?.run === run.id ? ended : null}
              />
            )}
          </li>
        ))}
      </ul>
      <BestKnown plan={plan} />
    </>
  );
}

function RunLine({ run, open, onOpen }: { run: Run; open: boolean; onOpen: () => void }) {
  const real = run.real_s ? `, ${clock(run.real_s)}` : "";
  const failed = run.failed_layer ? `, failed at layer ${run.failed_layer}` : "";
  return (
    <div className="flex items-start gap-4">
      <div className="min-w-0 flex-1">
        <div className="flex flex-wrap items-baseline gap-x-5">
          <Link className="text-indigo underline" to={`/run/${run.id}`}>
            run {run.id}
          </Link>
          <span className="font-medium">
            {day(run.started_at)}, {hour(run.started_at)}
          </span>
          <span className="text-faded">
            {run.printer_name}, {run.material_name}
            {run.simulated && ", simulated: teaches nothing, uses nothing"}
          </span>
          <span>
            planned {clock(run.planned_s)}, {run.planned_g.toFixed(0)} g, risk{" "}
            {percent(run.planned_risk)}
          </span>
          {run.result ? (
            <span className={run.result === "good" ? "text-moss" : "text-persimmon"}>
              {run.result}
              {real}
              {failed}
            </span>
          ) : (
            <span className="text-persimmon">outcome not logged</span>
          )}
        </div>
        {(run.note ?? run.removal) && !open && (
          <p className="text-[13.5px] text-faded">
            {run.note}
            {run.removal && (
              <span className={run.note ? "ml-4" : ""}>Supports: {REMOVAL[run.removal - 1]}</span>
            )}
          </p>
        )}
      </div>
      <button type="button" className="quiet" aria-expanded={open} onClick={onOpen}>
        {run.result ? "Correct" : "Log the outcome"}
      </button>
    </div>
  );
}
