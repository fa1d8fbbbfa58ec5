import { useEffect, useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { problemOf } from "../api/client";
import { clock, day, hour, percent } from "../shell/format";
import { Crumbs } from "../shell/Header";
import { Trouble } from "../shell/Trouble";
import { Pick } from "../ui/Pick";
import { useBranch, useLine, type Decision } from "./api";
import { OwnSettings } from "./OwnSettings";
import { beside } from "./points";

/** A plan's decisions with their reasons: any can be gone back to as another plan, any two compared. */
export function LinePage() {
  const { plan = "0" } = useParams();
  const id = Number(plan);
  const line = useLine(id);
  const go = useNavigate();
  const branch = useBranch(id, (other) => void go(`/plan/${other}`));
  const [first, setFirst] = useState<number | null>(null);
  useEffect(() => {
    document.title = `${line.data?.figure_name ?? "Plan"}, line of decisions · Tenugui`;
  }, [line.data?.figure_name]);
  if (line.error) return <Trouble problem={problemOf(line.error)} />;
  const { data } = line;
  return (
    <main className="min-h-0 flex-1 overflow-y-auto px-8 py-5 max-[1100px]:px-5">
      <Crumbs
        trail={[
          { text: data?.figure_name ?? "" },
          { text: `plan ${data?.number ?? ""}`, to: `/plan/${id}` },
          { text: "line" },
        ]}
      />
      <h1 className="text-[27px] leading-tight">What was decided, and why?</h1>
      <p className="mb-4 max-w-[90ch] text-faded">
        Nothing here is lost: any decision, even one that was taken back, can be gone back to as
        another plan of the figure, and any two can be put beside each other.
      </p>
      {data && (
        <div className="flex flex-wrap items-start gap-x-12 gap-y-6">
          <section aria-label="Decisions" className="min-w-96 flex-[2]">
            {data.decisions.length === 0 && (
              <p className="text-faded">
                Nothing is decided yet.{" "}
                <Link className="underline" to={`/plan/${id}`}>
                  Begin with its size
                </Link>
                .
              </p>
            )}
            <ol>
              {data.decisions.map((d) => (
                <Row
                  key={d.id}
                  plan={id}
                  of={d}
                  first={first}
                  onFirst={setFirst}
                  busy={branch.isPending}
                  onBranch={() => branch.mutate({ decision: d.id })}
                />
              ))}
            </ol>
          </section>
          <section aria-label="Plans of this figure" className="min-w-64 flex-1 space-y-3">
            {data.own.length > 0 && (
              <p className="border border-thread bg-paper px-3 py-2">
                Set otherwise in this plan:{" "}
                {data.own
                  .map((o) => `${o.title.toLowerCase()} ${o.value} ${o.unit}`.trim())
                  .join(", ")}
                .
              </p>
            )}
            <h2 className="text-[18px]">Plans of this figure</h2>
            <ul>
              {data.plans.map((p) => (
                <li
                  key={p.id}
                  className="flex flex-wrap items-baseline gap-3 border-b border-thread py-1.5"
                >
                  <Link className="text-indigo hover:underline" to={`/plan/${p.id}`}>
                    plan {p.number}
                  </Link>
                  <span className="text-[13px] text-faded">
                    {p.settled.join(", ") || "nothing settled"}
                  </span>
                </li>
              ))}
            </ul>
            <button
              type="button"
              className="quiet"
              disabled={branch.isPending}
              onClick={() => branch.mutate({ decision: null })}
            >
              Another plan from the start
            </button>
            {data.settable.length > 0 && (
              <OwnSettings
                offered={data.settable}
                busy={branch.isPending}
                onPlan={(own) =>
                  branch.mutate({
                    decision: data.decisions.findLast((d) => d.in_force)?.id ?? null,
                    own,
                  })
                }
              />
            )}
            {data.plans.length > 1 && (
              <Pick
                label="Compare this plan with"
                value=""
                options={[
                  { value: "", text: "compare with…" },
                  ...data.plans
                    .filter((p) => p.id !== id)
                    .map((p) => ({ value: String(p.id), text: `plan ${p.number}` })),
                ]}
                onValue={(v) =>
                  v && void go(beside({ plan: id, at: null }, { plan: Number(v), at: null }))
                }
              />
            )}
          </section>
        </div>
      )}
    </main>
  );
}

interface RowProps {
  plan: number;
  of: Decision;
  first: number | null;
  busy: boolean;
  onFirst: (id: number | null) => void;
  onBranch: () => void;
}

function Row({ plan, of, first, busy, onFirst, onBranch }: RowProps) {
  const numbers = of.numbers;
  return (
    <li className={`border-b border-thread py-2 ${of.in_force ? "" : "opacity-70"}`}>
      <div className="flex flex-wrap items-baseline gap-x-3">
        <span className="font-display text-[16px] text-indigo">{of.title}</span>
        <span>{of.said}</span>
        {!of.in_force && <span className="text-[12.5px] text-faded">taken back</span>}
        <span className="ml-auto text-[12.5px] text-faded">
          {day(of.at)}, {hour(of.at)}
        </span>
      </div>
      <p className="max-w-[90ch] text-[13.5px] text-faded">{of.reason}</p>
      <div className="mt-1 flex flex-wrap items-center gap-3 text-[12.5px]">
        {numbers && (
          <span>
            {clock(numbers.time_s)}, {numbers.mass_g.toFixed(1)} g, risk {percent(numbers.risk)}
          </span>
        )}
        <button type="button" className="text-faded underline" disabled={busy} onClick={onBranch}>
          another plan from here
        </button>
        {first == null ? (
          <button type="button" className="text-faded underline" onClick={() => onFirst(of.id)}>
            compare from here
          </button>
        ) : first === of.id ? (
          <button type="button" className="text-faded underline" onClick={() => onFirst(null)}>
            first of two: pick another
          </button>
        ) : (
          <Link
            className="text-indigo underline"
            to={beside({ plan, at: first }, { plan, at: of.id })}
          >
            compare with this
          </Link>
        )}
      </div>
    </li>
  );
}
