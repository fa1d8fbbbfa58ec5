import { useQuery } from "@tanstack/react-query";
import { useEffect, useState, type ReactNode } from "react";
import { useHotkeys } from "react-hotkeys-hook";
import { useParams } from "react-router";
import { api, need, problemOf, type Schemas } from "../api/client";
import { useDeed } from "../api/memory";
import { usePlan } from "../api/queries";
import { foldOf } from "../folds/types";
import { useAddress } from "../shell/address";
import { Crumbs } from "../shell/Header";
import { Trouble } from "../shell/Trouble";
import { Choice } from "../ui/Choice";
import { Tray, trayOf } from "./Tray";
import { leftOf, minutesOf, useTimers } from "./timers";

type Doc = Schemas["FinishDoc"];
type Step = Schemas["FinishStepDoc"];
type School = "before" | "after";
const SCHOOLS = [
  { value: "before", text: "supports off before curing" },
  { value: "after", text: "after curing" },
] as const;

/** Off the plate: one step at a time, for wet gloves. */
export function OffPage() {
  const { plan: id = "0" } = useParams();
  const number = Number(id);
  const { search, put } = useAddress();
  const school: School = search.get("school") === "after" ? "after" : "before";
  const tray = trayOf(search.get("with"));
  const plan = usePlan(number).data;
  const held = useQuery({
    queryKey: ["finish", number, school, ...tray],
    queryFn: () =>
      need(
        api.GET("/api/plans/{number}/finish", {
          params: { path: { number }, query: { school, with: tray } },
        }),
      ),
    retry: false,
  });
  const name = plan?.figure_name;
  useEffect(() => {
    document.title = `Off the plate · ${name ?? ""} · Tenugui`;
  }, [name]);
  if (held.error) return <Trouble problem={problemOf(held.error)} />;
  if (!held.data || !plan) return <p className="p-10 text-faded">Laying the steps out</p>;
  const at = Math.min(Number(search.get("step") ?? 0) || 0, held.data.steps.length - 1);
  return (
    <>
      <Crumbs
        trail={[{ text: plan.figure_name, to: `/plan/${plan.id}/log` }, { text: "off the plate" }]}
      />
      <Steps
        doc={held.data}
        plan={plan.id}
        at={Math.max(0, at)}
        onAt={(k) => put({ step: k })}
        school={school}
        onSchool={(s) => put({ school: s })}
        tray={tray.length > 0}
      >
        <Tray
          plan={plan.id}
          process={foldOf(plan, "size").choice?.process}
          tray={tray}
          onTray={(others) => put({ with: others.join("-") || null, step: null })}
        />
      </Steps>
    </>
  );
}

/** Minutes as people say them. */
export const spoken = (minutes: number) =>
  minutes >= 90 ? `${(minutes / 60).toFixed(1)} h` : `${Math.max(1, Math.round(minutes))} min`;

interface Props {
  doc: Doc;
  plan: number;
  at: number;
  onAt: (step: number) => void;
  school: School;
  onSchool: (school: School) => void;
  /** Of several figures together nobody knows how long each one took. */
  tray: boolean;
  children: ReactNode;
}

function Steps({ doc, plan, at, onAt, school, onSchool, tray, children }: Props) {
  const step = doc.steps[at];
  const last = doc.steps.length - 1;
  useHotkeys("n, arrowright", () => onAt(Math.min(last, at + 1)), [at, last]);
  useHotkeys("shift+n, arrowleft", () => onAt(Math.max(0, at - 1)), [at]);
  const wet = doc.steps.some((s) => s.name === "first bath");
  return (
    <main className="min-h-0 flex-1 overflow-y-auto px-8 py-5 max-[1100px]:px-5">
      <div className="flex flex-wrap items-baseline gap-4">
        <h1 className="text-[27px] leading-tight">What comes next?</h1>
        <span className="text-faded">
          {spoken(doc.hands_min)} by hand; begun now, all is ready at {doc.ready.slice(11)}
          {doc.ready.slice(0, 10) === doc.steps[0]?.start.slice(0, 10) ? "" : " the next day"}
          {". Times are priors: the makers' sheets come first."}
        </span>
        {wet && <Choice label="School" value={school} options={SCHOOLS} onValue={onSchool} small />}
      </div>
      {children}
      <Afternoon doc={doc} at={at} onAt={onAt} />
      <div className="mt-4 flex flex-wrap items-start gap-x-10 gap-y-5">
        <section aria-label="This step" className="min-w-80 flex-[2]">
          <p className="text-faded">
            step {at + 1} of {doc.steps.length}
          </p>
          <h2 className="text-[40px] leading-tight">{step.name}</h2>
          <p className="mt-1 text-[22px]">
            {spoken(step.minutes)} {step.hands ? "by hand" : "alone"}
            {step.amount && `, ${step.amount}`}
          </p>
          {step.with && <p className="text-[19px] text-faded">{step.with}</p>}
          {(step.parts ?? []).length > 0 && (
            <ul aria-label="Of each figure" className="mt-1 text-[17px]">
              {step.parts?.map((part) => (
                <li key={part}>{part}</li>
              ))}
            </ul>
          )}
          {step.caution && (
            <p
              role="note"
              className="mt-3 border-l-4 border-persimmon bg-paper px-4 py-2 text-[17px]"
            >
              {step.caution}
            </p>
          )}
          <div className="mt-4 flex flex-wrap items-center gap-3 [&_button]:min-h-14 [&_button]:px-6 [&_button]:text-[18px]">
            <TimerOf plan={plan} step={step} />
            {step.hands && !tray && (
              <TookIt key={step.name} plan={plan} step={step} school={school} />
            )}
            <button
              type="button"
              className="quiet"
              disabled={at === 0}
              onClick={() => onAt(at - 1)}
            >
              Back
            </button>
            <button
              type="button"
              className="take"
              disabled={at === last}
              onClick={() => onAt(at + 1)}
            >
              Done, next
            </button>
          </div>
        </section>
        <ol aria-label="All steps" className="min-w-64 flex-1">
          {doc.steps.map((s, k) => (
            <li key={s.name}>
              <button
                type="button"
                aria-current={k === at ? "step" : undefined}
                className="flex w-full items-baseline gap-3 border-b border-thread px-2 py-1.5 text-left aria-[current=step]:bg-indigo aria-[current=step]:text-onindigo"
                onClick={() => onAt(k)}
              >
                <span className="w-12 shrink-0 opacity-75">{s.start.slice(11)}</span>
                <span className="min-w-0 flex-1">{s.name}</span>
                <span className="opacity-75">{spoken(s.minutes)}</span>
              </button>
            </li>
          ))}
        </ol>
      </div>
    </main>
  );
}

const [WIDE, HIGH] = [1000, 26];

/** The whole afternoon as a ribbon: striped where hands are wanted, plain where it goes alone. */
function Afternoon({ doc, at, onAt }: { doc: Doc; at: number; onAt: (k: number) => void }) {
  const whole = doc.steps.reduce((n, s) => n + s.minutes, 0);
  const from = (k: number) => doc.steps.slice(0, k).reduce((n, s) => n + s.minutes, 0);
  const x = (minutes: number) => (minutes / whole) * WIDE;
  return (
    <svg
      viewBox={`0 0 ${WIDE} ${HIGH}`}
      preserveAspectRatio="none"
      className="mt-3 h-7 w-full"
      role="img"
      aria-label={`${spoken(whole)} in ${doc.steps.length} steps, ${spoken(doc.hands_min)} by hand`}
    >
      {doc.steps.map((s, k) => (
        <rect
          key={s.name}
          x={x(from(k)) + 0.5}
          width={Math.max(1, x(s.minutes) - 1)}
          y="0.5"
          height={HIGH - 1}
          fill={s.hands ? "url(#p-stripes)" : "var(--section)"}
          stroke={k === at ? "var(--indigo)" : "var(--thread)"}
          strokeWidth={k === at ? 2 : 1}
          onClick={() => onAt(k)}
        />
      ))}
    </svg>
  );
}

/** The timer of a step: started, seen running, started again. */
function TimerOf({ plan, step }: { plan: number; step: Step }) {
  const timers = useTimers();
  const mine = timers.find((t) => t.plan_id === plan && t.step === step.name);
  const path = { number: plan };
  const start = useDeed("timers", () =>
    need(
      api.POST("/api/plans/{number}/timers", {
        params: { path },
        body: { step: step.name, minutes: step.minutes },
      }),
    ),
  );
  return (
    <>
      <button type="button" className="quiet" onClick={() => start.mutate(undefined)}>
        {mine ? "Start the timer again" : `Start ${spoken(step.minutes)}`}
      </button>
      {mine && (
        <span className="font-display text-[26px]" aria-live="off">
          {leftOf(mine)}
        </span>
      )}
    </>
  );
}

/** How long a step by hand really took: kept, so that plans learn how long hands take. */
function TookIt({ plan, step, school }: { plan: number; step: Step; school: School }) {
  const mine = useTimers().find((t) => t.plan_id === plan && t.step === step.name);
  const [said, setSaid] = useState<string | null>(null);
  const passed = mine ? minutesOf(mine) : null;
  const text = said ?? (passed == null ? "" : passed.toFixed(passed < 10 ? 1 : 0));
  const minutes = Number(text.replace(",", "."));
  const keep = useDeed(
    "able",
    () =>
      need(
        api.POST("/api/plans/{number}/minutes", {
          params: { path: { number: plan } },
          body: { step: step.name, school, minutes },
        }),
      ),
    `Kept: ${text} minutes, where ${spoken(step.minutes)} were reckoned.`,
  );
  return (
    <label className="flex items-center gap-2 text-[16px]">
      it took
      <input
        className="field w-20"
        inputMode="decimal"
        aria-label={`Minutes that it took: ${step.name}`}
        value={text}
        onChange={(e) => setSaid(e.target.value)}
      />
      min
      <button
        type="button"
        className="quiet"
        disabled={!(minutes > 0) || keep.isPending}
        onClick={() => keep.mutate(undefined)}
      >
        Keep
      </button>
    </label>
  );
}
