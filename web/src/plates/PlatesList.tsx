import { useEffect, useState } from "react";
import { Link, useNavigate } from "react-router";
import { api, need, problemOf } from "../api/client";
import { useDeed } from "../api/memory";
import { usePrinters } from "../api/queries";
import { day } from "../shell/format";
import { Crumbs } from "../shell/Header";
import { Trouble } from "../shell/Trouble";
import { Pick } from "../ui/Pick";
import { useOffers, usePlates } from "./api";
import { Count } from "./Pieces";

/** All plates, and a new one: these, so many. */
export function PlatesList() {
  const plates = usePlates();
  useEffect(() => {
    document.title = "Plates · Tenugui";
  }, []);
  const away = useDeed("plates", (number: number) =>
    need(api.DELETE("/api/plates/{number}", { params: { path: { number } } })),
  );
  if (plates.error) return <Trouble problem={problemOf(plates.error)} />;
  return (
    <main className="min-h-0 flex-1 overflow-y-auto px-8 py-5 max-[1100px]:px-5">
      <Crumbs trail={[{ text: "Plates" }]} />
      <h1 className="text-[27px] leading-tight">What lies together?</h1>
      <p className="mb-4 max-w-[90ch] text-faded">
        A plate holds copies of accepted plans of one machine, laid out by their true outlines with
        supports and raft, costed with what fails, and begun as a run for every piece.
      </p>
      <div className="flex flex-wrap items-start gap-x-10 gap-y-5">
        <section aria-label="Plates" className="min-w-80 flex-1">
          <h2 className="text-[18px]">Plates on the bench</h2>
          {plates.data?.length === 0 && <p className="text-faded">None yet. Make one beside.</p>}
          <ul>
            {plates.data?.map((p) => (
              <li
                key={p.id}
                className="flex flex-wrap items-baseline gap-x-4 border-b border-thread py-2"
              >
                <Link
                  to={`/plate/${p.id}`}
                  className="font-display text-[16px] text-indigo hover:underline"
                >
                  {p.name}
                </Link>
                <span className="text-faded">
                  {p.pieces} {p.pieces === 1 ? "piece" : "pieces"} on {p.printer_name}
                  {p.plates > 1 && `, ${p.plates} plates`}
                </span>
                <span className="ml-auto">{p.begun ? `begun ${p.begun} times` : "not begun"}</span>
                <span className="text-[12.5px] text-faded">{day(p.created_at)}</span>
                <button
                  type="button"
                  className="text-[12.5px] text-faded underline"
                  aria-label={`Delete ${p.name}`}
                  onClick={() => away.mutate(p.id)}
                >
                  delete
                </button>
              </li>
            ))}
          </ul>
        </section>
        <New />
      </div>
    </main>
  );
}

function New() {
  const go = useNavigate();
  const printers = usePrinters().data ?? [];
  const [chosen, setChosen] = useState<number | null>(null);
  const printer = printers.find((p) => p.id === chosen) ?? printers.at(0);
  const offers = useOffers(printer?.id);
  const [copies, setCopies] = useState<Record<number, number>>({});
  const [name, setName] = useState("");
  const lines = (offers.data ?? [])
    .filter((o) => copies[o.plan_id] > 0)
    .map((o) => ({ plan_id: o.plan_id, copies: copies[o.plan_id] }));
  const many = lines.reduce((n, l) => n + l.copies, 0);
  const first = offers.data?.find((o) => o.plan_id === lines.at(0)?.plan_id);
  const called =
    name.trim() || (first ? `${first.figure_name}${lines.length > 1 ? " and others" : ""}` : "");
  const make = useDeed("plates", () =>
    need(
      api.POST("/api/plates", {
        body: {
          name: called,
          printer_id: printer?.id ?? 0,
          pieces: lines,
          gap_mm: 2,
          rates: "evening",
        },
      }),
    ),
  );
  return (
    <form
      aria-label="A new plate"
      className="min-w-96 flex-1 space-y-2"
      onSubmit={(e) => {
        e.preventDefault();
        make.mutate(undefined, { onSuccess: (id) => void go(`/plate/${id}`) });
      }}
    >
      <div className="flex flex-wrap items-baseline gap-3">
        <h2 className="text-[18px]">These, so many, on</h2>
        <Pick
          label="Printer"
          value={String(printer?.id ?? "")}
          options={printers.map((p) => ({ value: String(p.id), text: p.name }))}
          onValue={(v) => {
            setChosen(Number(v));
            setCopies({});
          }}
        />
      </div>
      {offers.data?.length === 0 && (
        <p className="text-faded">
          No plan for {printer?.name} was accepted yet.{" "}
          <Link className="underline" to="/">
            Go to the bench
          </Link>
          , and take one through to Proof.
        </p>
      )}
      <ul>
        {offers.data?.map((o) => (
          <li
            key={o.plan_id}
            className="flex flex-wrap items-center gap-3 border-b border-thread py-1"
          >
            <label className="flex min-w-48 flex-1 items-center gap-2">
              <input
                type="checkbox"
                checked={(copies[o.plan_id] ?? 0) > 0}
                onChange={(e) => setCopies({ ...copies, [o.plan_id]: e.target.checked ? 1 : 0 })}
              />
              {o.figure_name} <span className="text-[12.5px] text-faded">plan {o.plan_number}</span>
            </label>
            {copies[o.plan_id] > 0 && (
              <Count
                label={o.figure_name}
                value={copies[o.plan_id]}
                onValue={(n) => setCopies({ ...copies, [o.plan_id]: n })}
              />
            )}
          </li>
        ))}
      </ul>
      {many > 0 && (
        <div className="flex flex-wrap items-center gap-3">
          <input
            className="field min-w-48 flex-1"
            aria-label="Its name"
            maxLength={120}
            placeholder={called}
            value={name}
            onChange={(e) => setName(e.target.value)}
          />
          <button className="take" disabled={make.isPending}>
            Lay {many} {many === 1 ? "piece" : "pieces"} on a plate
          </button>
        </div>
      )}
    </form>
  );
}
