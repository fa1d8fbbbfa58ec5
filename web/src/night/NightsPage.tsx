import { useEffect, useState } from "react";
import { Link, useNavigate } from "react-router";
import { api, need, problemOf } from "../api/client";
import { useDeed } from "../api/memory";
import { useFigures, useMaterials, usePrinters } from "../api/queries";
import { day, hour } from "../shell/format";
import { Crumbs } from "../shell/Header";
import { Trouble } from "../shell/Trouble";
import { Pick } from "../ui/Pick";
import { useNights } from "./api";
import { LimitFields } from "./LimitFields";
import { limitOf } from "./words";

/** All nights, and a new one: these figures on these machines. */
export function NightsPage() {
  const nights = useNights();
  useEffect(() => {
    document.title = "Over night · Tenugui";
  }, []);
  if (nights.error) return <Trouble problem={problemOf(nights.error)} />;
  return (
    <main className="min-h-0 flex-1 overflow-y-auto px-8 py-5 max-[1100px]:px-5">
      <Crumbs trail={[{ text: "Over night" }]} />
      <h1 className="text-[27px] leading-tight">What is planned by morning?</h1>
      <p className="mb-4 max-w-[90ch] text-faded">
        Each figure is planned on each machine up to its proof, one after another and behind
        whatever you wait for yourself. In the morning a table names the best machine of each within
        your limits, and says what wants your eye first.
      </p>
      <div className="flex flex-wrap items-start gap-x-12 gap-y-5">
        <New />
        <section aria-label="Nights" className="min-w-64 flex-1">
          <h2 className="text-[18px]">Nights so far</h2>
          {nights.data?.length === 0 && <p className="text-faded">None yet.</p>}
          <ul>
            {nights.data?.map((n) => (
              <li key={n.id} className="border-b border-thread py-1.5">
                <Link to={`/night/${n.id}`} className="text-indigo hover:underline">
                  {day(n.begun_at)}, {hour(n.begun_at)}
                </Link>{" "}
                <span className="text-faded">
                  {n.figures} {n.figures === 1 ? "figure" : "figures"}
                </span>
              </li>
            ))}
          </ul>
        </section>
      </div>
    </main>
  );
}

function New() {
  const go = useNavigate();
  const figures = (useFigures().data ?? []).filter((f) => f.picture && !f.problem);
  const printers = usePrinters().data ?? [];
  const materials = useMaterials().data ?? [];
  const [taken, setTaken] = useState<ReadonlySet<number>>(new Set());
  const [loaded, setLoaded] = useState<Record<number, number | undefined>>({});
  const [height, setHeight] = useState("");
  const [risk, setRisk] = useState("");
  const [hours, setHours] = useState("");
  const stuffOf = (process: string) => materials.filter((m) => m.process === process);
  const machines = printers.flatMap((p) => {
    const material = loaded[p.id];
    return material ? [{ printer_id: p.id, material_id: material }] : [];
  });
  const tall = limitOf(height, 2000);
  const share = limitOf(risk, 100);
  const long = limitOf(hours, 10_000);
  const wrong = tall === null || share === null || long === null;
  const begin = useDeed("nights", () =>
    need(
      api.POST("/api/nights", {
        body: {
          figures: [...taken],
          machines,
          height_mm: tall ?? null,
          most_risk: share == null ? 1 : share / 100,
          most_hours: long ?? 10_000,
        },
      }),
    ),
  );
  const untaken = figures.filter((f) => f.next != null && f.next.name !== "log").map((f) => f.id);
  return (
    <form
      aria-label="A new night"
      className="min-w-[480px] flex-[2] space-y-4"
      onSubmit={(e) => {
        e.preventDefault();
        begin.mutate(undefined, { onSuccess: (night) => void go(`/night/${night.id}`) });
      }}
    >
      <fieldset>
        <legend className="font-display text-[18px]">These figures</legend>
        <p className="mb-1 flex gap-4 text-[13.5px]">
          <button
            type="button"
            className="text-indigo underline"
            onClick={() => setTaken(new Set(untaken))}
          >
            all without a proved plan ({untaken.length})
          </button>
          <button
            type="button"
            className="text-indigo underline"
            onClick={() => setTaken(new Set())}
          >
            none
          </button>
        </p>
        <ul className="grid grid-cols-[repeat(auto-fill,minmax(200px,1fr))] gap-x-6">
          {figures.map((f) => (
            <li key={f.id} className="border-b border-thread py-1">
              <label className="flex items-center gap-2.5">
                <input
                  type="checkbox"
                  checked={taken.has(f.id)}
                  onChange={(e) => {
                    const now = new Set(taken);
                    if (e.target.checked) now.add(f.id);
                    else now.delete(f.id);
                    setTaken(now);
                  }}
                />
                <img
                  src={`/api/blobs/${f.picture}`}
                  alt=""
                  className="h-11 w-9 object-contain"
                  loading="lazy"
                />
                {f.name}
              </label>
            </li>
          ))}
        </ul>
        {figures.length === 0 && <p className="text-faded">No figure on the bench is examined.</p>}
      </fieldset>
      <fieldset>
        <legend className="font-display text-[18px]">on these machines</legend>
        <ul>
          {printers.map((p) => {
            const fits = stuffOf(p.process);
            const on = loaded[p.id];
            return (
              <li key={p.id} className="flex items-center gap-4 border-b border-thread py-1">
                <label className="flex w-48 items-center gap-2.5">
                  <input
                    type="checkbox"
                    checked={on != null}
                    disabled={fits.length === 0}
                    onChange={(e) =>
                      setLoaded({ ...loaded, [p.id]: e.target.checked ? fits[0]?.id : undefined })
                    }
                  />
                  {p.name} <span className="text-[12.5px] text-faded">{p.process}</span>
                </label>
                {on != null && (
                  <Pick
                    label={`Material on ${p.name}`}
                    value={String(on)}
                    options={fits.map((m) => ({ value: String(m.id), text: m.name }))}
                    onValue={(v) => setLoaded({ ...loaded, [p.id]: Number(v) })}
                  />
                )}
              </li>
            );
          })}
        </ul>
      </fieldset>
      <div className="flex flex-wrap items-center gap-x-5 gap-y-2">
        <label className="flex items-center gap-2">
          each
          <input
            className="field w-32"
            inputMode="decimal"
            aria-label="Height of each, mm"
            placeholder="as its file has it"
            value={height}
            onChange={(e) => setHeight(e.target.value)}
          />
          mm tall,
        </label>
        <LimitFields risk={risk} hours={hours} onRisk={setRisk} onHours={setHours} />
      </div>
      {wrong && (
        <p role="alert" className="text-persimmon">
          Heights go up to 2,000 mm, risks to 100 %, hours to 10,000; leave empty what does not
          matter.
        </p>
      )}
      <button
        className="take"
        disabled={wrong || taken.size === 0 || machines.length === 0 || begin.isPending}
      >
        Plan {taken.size} {taken.size === 1 ? "figure" : "figures"} on {machines.length}{" "}
        {machines.length === 1 ? "machine" : "machines"}
      </button>
    </form>
  );
}
