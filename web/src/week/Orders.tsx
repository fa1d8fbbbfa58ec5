import { useState } from "react";
import { Link } from "react-router";
import { api, need } from "../api/client";
import { useFigures } from "../api/queries";
import { usePlates } from "../plates/api";
import { percent } from "../shell/format";
import { Pick } from "../ui/Pick";
import { sayTime, useWeekDeed, type Order, type Week } from "./api";

const GOES = [
  { value: "off the plate", text: "off the plate" },
  { value: "clean", text: "cleaned, supports off" },
  { value: "primed", text: "primed" },
  { value: "coated", text: "with its first coat" },
] as const;
type Goes = Order["goes"];
const CHANCES = ["0.5", "0.8", "0.9", "0.95", "0.99"];

/** What is ordered, by when, and how it stands. */
export function Orders({ week, fresh }: { week: Week; fresh: boolean }) {
  const change = useWeekDeed((o: Order) =>
    need(
      api.PUT("/api/week/orders/{number}", {
        params: { path: { number: o.id } },
        body: {
          name: o.name,
          copies: o.copies,
          due: o.due,
          chance: o.chance,
          goes: o.goes,
          made: o.made,
        },
      }),
    ),
  );
  const away = useWeekDeed((number: number) =>
    need(api.DELETE("/api/week/orders/{number}", { params: { path: { number } } })),
  );
  return (
    <div className="flex flex-wrap items-start gap-x-10 gap-y-4">
      <ul className="min-w-96 flex-[2]">
        {week.orders.map((o) => (
          <li
            key={o.id}
            className="flex flex-wrap items-center gap-x-3 gap-y-1 border-b border-thread py-1.5"
          >
            <span className="min-w-40 font-medium">{o.name}</span>
            {o.plan_id != null && (
              <Link className="text-indigo underline" to={`/plan/${o.plan_id}`}>
                {o.figure_name}
              </Link>
            )}
            {o.plate_id != null && (
              <Link className="text-indigo underline" to={`/plate/${o.plate_id}`}>
                {o.plate_name}
              </Link>
            )}
            <label className="flex items-center gap-1 text-[13px] text-faded">
              made
              <input
                key={o.made}
                className="field w-12 text-center text-ink"
                aria-label={`made of ${o.name}`}
                defaultValue={o.made}
                inputMode="numeric"
                onBlur={(e) => {
                  const made = Math.round(Number(e.target.value));
                  if (made >= 0 && made <= o.copies && made !== o.made)
                    change.mutate({ ...o, made });
                  else e.target.value = String(o.made);
                }}
              />
              of {o.copies}
            </label>
            <input
              type="datetime-local"
              className="field"
              aria-label={`date of ${o.name}`}
              defaultValue={o.due?.slice(0, 16) ?? ""}
              onBlur={(e) => {
                const due = e.target.value || null;
                if (due !== (o.due?.slice(0, 16) ?? null)) change.mutate({ ...o, due });
              }}
            />
            <Pick
              label={`how far ${o.name} goes`}
              value={o.goes}
              options={GOES}
              onValue={(v) => change.mutate({ ...o, goes: v as Goes })}
            />
            <span className={o.sure != null && o.sure < o.chance ? "text-persimmon" : "text-moss"}>
              {o.sure != null && `${percent(o.sure)}, ${percent(o.chance)} wanted`}
            </span>
            <button
              type="button"
              className="ml-auto text-[12.5px] text-faded underline"
              onClick={() => away.mutate(o.id)}
              aria-label={`Delete the order ${o.name}`}
            >
              delete
            </button>
            {o.said && <span className="w-full text-[12.5px] text-faded">{o.said}</span>}
          </li>
        ))}
        {!week.orders.length && (
          <li className="text-faded">Nothing yet: say beside what is wanted by when.</li>
        )}
      </ul>
      <New now={week.now} open={fresh || !week.orders.length} />
    </div>
  );
}

function New({ now, open }: { now: string; open: boolean }) {
  const figures = useFigures().data ?? [];
  const plates = usePlates().data ?? [];
  const [of, setOf] = useState("none");
  const [name, setName] = useState("");
  const [copies, setCopies] = useState("1");
  const [due, setDue] = useState("");
  const [chance, setChance] = useState("0.9");
  const [goes, setGoes] = useState<Goes>("primed");
  const options = [
    { value: "none", text: "which plan or plate" },
    ...plates.map((p) => ({ value: `plate ${p.id}`, text: `the plate ${p.name}` })),
    ...figures
      .filter((f) => f.plan_id != null && f.next?.name === "log")
      .map((f) => ({ value: `plan ${f.plan_id ?? 0}`, text: f.name })),
  ];
  const add = useWeekDeed((body: Parameters<typeof bodyOf>) =>
    need(api.POST("/api/week/orders", { body: bodyOf(...body) })),
  );
  const shown = options.find((o) => o.value === of && of !== "none");
  const called = name.trim() || (shown?.text ?? "");
  if (!open && !add.isPending && of === "none")
    return <p className="text-[12.5px] text-faded">“Order something” above adds another.</p>;
  return (
    <form
      aria-label="A new order"
      className="min-w-80 flex-1 space-y-2 bg-paper px-4 py-3"
      onSubmit={(e) => {
        e.preventDefault();
        add.mutate([of, called, Number(copies), due, Number(chance), goes], {
          onSuccess: () => {
            setOf("none");
            setName("");
          },
        });
      }}
    >
      <h2 className="text-[18px]">This, by then</h2>
      <div className="flex flex-wrap gap-2">
        <input
          className="field w-14 text-center"
          aria-label="How many"
          inputMode="numeric"
          value={copies}
          onChange={(e) => setCopies(e.target.value)}
        />
        <Pick label="Of which" value={of} options={options} onValue={setOf} className="min-w-52" />
        <Pick
          label="How far it goes"
          value={goes}
          options={GOES}
          onValue={(v) => setGoes(v as Goes)}
        />
      </div>
      <div className="flex flex-wrap items-center gap-2">
        <input
          type="datetime-local"
          className="field"
          aria-label="By when"
          min={now.slice(0, 16)}
          value={due}
          onChange={(e) => setDue(e.target.value)}
        />
        <Pick
          label="How surely"
          value={chance}
          options={CHANCES.map((c) => ({ value: c, text: `in ${percent(Number(c))} of cases` }))}
          onValue={setChance}
        />
      </div>
      <div className="flex flex-wrap items-center gap-2">
        <input
          className="field min-w-40 flex-1"
          aria-label="Its name"
          placeholder={called || "its name"}
          maxLength={120}
          value={name}
          onChange={(e) => setName(e.target.value)}
        />
        <button className="take" disabled={of === "none" || add.isPending}>
          Order it{due && `, ready ${sayTime(due, now)}`}
        </button>
      </div>
    </form>
  );
}

function bodyOf(of: string, name: string, copies: number, due: string, chance: number, goes: Goes) {
  const [kind, number] = of.split(" ");
  return {
    name,
    plan_id: kind === "plan" ? Number(number) : null,
    plate_id: kind === "plate" ? Number(number) : null,
    copies,
    due: due || null,
    chance,
    goes,
  };
}
