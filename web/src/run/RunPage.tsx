import { useEffect, useState } from "react";
import { Link, useParams } from "react-router";
import type { Vector3 } from "three";
import { useProof } from "../api/boards";
import { problemOf, type PlanState } from "../api/client";
import { useRun, type Pin, type RunWhole } from "../api/memory";
import { usePlan } from "../api/queries";
import { foldOf } from "../folds/types";
import { clock, count, day, hour, percent } from "../shell/format";
import { Crumbs } from "../shell/Header";
import { Trouble } from "../shell/Trouble";
import type { Item } from "../stage/scene";
import { Turntable } from "../turntable/Turntable";
import { Desk } from "./Desk";
import { Frozen } from "./Frozen";
import { Photos } from "./Photos";
import { Pins, type Where } from "./Pins";
import { Since } from "./Since";
import { Ways } from "./Ways";

/** A run as it is remembered: what was set, what is other than before, and what was seen. */
export function RunPage() {
  const { run: id = "0" } = useParams();
  const held = useRun(Number(id));
  const title = held.data ? `Run ${id} · ${held.data.run.figure_name}` : `Run ${id}`;
  useEffect(() => {
    document.title = `${title} · Tenugui`;
  }, [title]);
  if (held.error) return <Trouble problem={problemOf(held.error)} />;
  if (!held.data) return <p className="p-10 text-faded">Looking the run up</p>;
  return <Remembered key={id} held={held.data} />;
}

function Remembered({ held }: { held: RunWhole }) {
  const { run } = held;
  const plan = usePlan(run.plan_id ?? 0).data;
  const [where, setWhere] = useState<Where>({ layer: null, place: null });
  const [shown, setShown] = useState<Pin | null>(null);
  const asked = shown ?? held.pins.at(-1) ?? null;
  return (
    <>
      <Crumbs trail={[{ text: "Log", to: "/log" }, { text: `run ${run.id}` }]} />
      <main className="unfolded min-h-0 flex-1 px-8 py-5 max-[1100px]:px-5">
        {plan ? (
          <AsPrinted
            plan={plan}
            pin={where.place ? null : asked}
            at={where}
            onWhere={setWhere}
            name={run.figure_name}
          />
        ) : (
          <p className="self-center text-center text-faded">
            The figure of this run has left the bench.
          </p>
        )}
        <div className="min-h-0 overflow-y-auto pr-1">
          <h1 className="text-[27px] leading-tight">
            Run {run.id} of {run.figure_name}
          </h1>
          <p className="text-faded">
            {day(run.started_at)}, {hour(run.started_at)}, on {run.printer_name} in{" "}
            {run.material_name}
            {run.simulated && ", simulated"}. {resultOf(held)}
          </p>
          <p className="mt-1 mb-3 flex flex-wrap gap-x-5 text-[13.5px]">
            {run.plan_id && (
              <Link className="text-indigo underline" to={`/plan/${run.plan_id}/log`}>
                its plan, and its outcome
              </Link>
            )}
            <a
              className="text-indigo underline"
              href={`/api/runs/${run.id}/label`}
              target="_blank"
              rel="noreferrer"
            >
              a label to print
            </a>
          </p>
          <Since run={run.id} since={held.since} />
          <Pins
            held={held}
            where={where}
            onWhere={setWhere}
            shown={asked}
            onShown={(pin) => setShown(pin)}
          />
          {asked && <Desk run={run.id} pin={asked} />}
          <Ways run={run} />
          <Photos held={held} />
          <Frozen lines={held.frozen} />
        </div>
      </main>
    </>
  );
}

/** What became of it, beside what was planned. */
export function resultOf({ run, layers }: RunWhole): string {
  const planned = `planned ${clock(run.planned_s)} and ${percent(run.planned_risk)} of failing`;
  if (!run.result) return `No outcome is logged yet; ${planned}.`;
  const of = layers ? ` of ${count(layers)}` : "";
  const at = run.failed_layer ? ` from layer ${count(run.failed_layer)}${of}` : "";
  const took = run.real_s ? ` after ${clock(run.real_s)}` : "";
  return `It came to: ${run.result}${at}${took}; ${planned}.`;
}

interface Printed {
  plan: PlanState;
  pin: Pin | null;
  at: Where;
  onWhere: (where: Where) => void;
  name: string;
}

/** The figure as its plan stands now, with what was seen pinned to it. */
function AsPrinted({ plan, pin, at, onWhere, name }: Printed) {
  const proof = useProof(plan, foldOf(plan, "proof").state === "settled");
  const row = proof.document?.held;
  const height = row?.strip.layer_height_mm;
  const sha = foldOf(plan, "size").choice?.preview_sha ?? plan.preview_sha;
  const place = pin?.place ?? at.place;
  const items: Item[] = [
    { kind: "figure", sha, matrix: row?.matrix },
    ...(row?.supports_sha ? [{ kind: "supports" as const, sha: row.supports_sha }] : []),
    ...(place
      ? [
          {
            kind: "pin" as const,
            x: place[0],
            y: place[1],
            z: place[2],
            text: pin ? pin.words : "here",
            face: !!pin,
          },
        ]
      : []),
    {
      kind: "picker" as const,
      onPick: ({ x, y, z }: Vector3) =>
        onWhere({ place: [x, y, z], layer: height ? Math.max(0, Math.floor(z / height)) : null }),
    },
  ];
  return (
    <Turntable
      items={items}
      label={`${name} as it stands in its plan; a click says where`}
      title="Click where you saw it"
    />
  );
}
