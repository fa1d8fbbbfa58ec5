import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { Link, useSearchParams } from "react-router";
import { api, need, problemOf, type Machine } from "../api/client";
import { usePrinters, useMaterials } from "../api/queries";
import { day } from "../shell/format";
import { Crumbs } from "../shell/Header";
import { Trouble } from "../shell/Trouble";
import { useView } from "../shell/view";
import { SpecForm } from "./SpecForm";

type Table = "printers" | "materials";
type Process = "resin" | "filament";
const NEW: [Table, Process, string][] = [
  ["printers", "resin", "a resin printer"],
  ["printers", "filament", "a filament printer"],
  ["materials", "resin", "a resin"],
  ["materials", "filament", "a filament"],
];

/** What is on the shelf, in words. */
function lineOf(m: Machine): string {
  if (m.left_g != null) return `${m.process}, ${m.left_g.toFixed(0)} g left`;
  return m.process;
}

/** What the runs have worn of a printer's film. */
function Film({ printer, onNew }: { printer: Machine; onNew: () => void }) {
  const worn = Math.round(printer.film_worn * 100);
  return (
    <p className="mb-3 flex flex-wrap items-baseline gap-x-4 border-l-4 border-thread bg-paper px-3 py-1.5 text-[13.5px]">
      <span className={printer.film_worn >= 0.9 ? "text-persimmon" : ""}>
        Film: {worn} % of its usual life worn by the runs of the log
        {printer.film_at ? ` since ${day(printer.film_at)}` : ""}. A prior: look at it as its maker
        says.
      </span>
      <button type="button" className="quiet px-2 text-[12.5px]" onClick={onNew}>
        A new film is in
      </button>
    </p>
  );
}

/** What the log of a printer says of its hours. */
function Hours({ hours }: { hours: NonNullable<Machine["hours"]> }) {
  const told = (ratio: number) => ratio.toFixed(2);
  return (
    <p className="mb-3 border-l-4 border-thread bg-paper px-3 py-1.5 text-[13.5px]">
      Hours: by {hours.timed} timed {hours.timed === 1 ? "print" : "prints"} of the log it takes{" "}
      {told(hours.ratio)} times as long as planned, the next one {told(hours.low)} to{" "}
      {told(hours.high)} times in 19 of 20 cases.
    </p>
  );
}

/** What the log of a printer says of how much its prints differ, and whether plans count with it. */
function Scatter({ printer, onTake }: { printer: Machine; onTake: (times: number) => void }) {
  const read = printer.scatter;
  if (!read) return null;
  const counted = Number(printer.spec.scatter ?? 1);
  const times = Number(read.times.toFixed(2));
  const inside = counted >= read.low && counted <= read.high;
  return (
    <p className="mb-3 flex flex-wrap items-baseline gap-x-4 border-l-4 border-thread bg-paper px-3 py-1.5 text-[13.5px]">
      <span>
        Outcomes: of {read.prints} logged prints {read.failed} failed, where plans feared{" "}
        {read.feared.toFixed(1)} on a usual printer. Its prints differ {times} times as much as
        usual, in 19 of 20 cases {read.low.toFixed(2)} to {read.high.toFixed(2)} times; plans count
        with {counted}
        {inside ? ", which may well be so" : ""}.
      </span>
      {!inside && (
        <button type="button" className="quiet px-2 text-[12.5px]" onClick={() => onTake(times)}>
          Count with {times}
        </button>
      )}
    </p>
  );
}

/** Printers and materials, each with its numbers. */
export function ShelfPage() {
  const { say, fail } = useView();
  const client = useQueryClient();
  const [search, setSearch] = useSearchParams();
  const printers = usePrinters();
  const materials = useMaterials();
  useEffect(() => {
    document.title = "Shelf · Tenugui";
  }, []);
  const table: Table = search.get("of") === "materials" ? "materials" : "printers";
  const rows = (table === "printers" ? printers.data : materials.data) ?? [];
  const fresh = search.get("new") as Process | null;
  const kept = fresh ? null : (rows.find((m) => m.name === search.get("name")) ?? rows.at(0));
  const process: Process = fresh === "filament" ? "filament" : (kept?.process ?? "resin");
  const form = useQuery({
    queryKey: ["form", table, process],
    queryFn: () =>
      need(api.GET("/api/form/{table}/{process}", { params: { path: { table, process } } })),
    staleTime: Infinity,
  });
  const refresh = () => client.invalidateQueries();
  const keep = useMutation({
    mutationFn: (spec: Record<string, unknown>) =>
      need(
        table === "printers"
          ? api.PUT("/api/printers", { body: spec })
          : api.PUT("/api/materials", { body: spec }),
      ),
    onSuccess: (_, spec) => {
      const name = String(spec.name);
      void refresh();
      setSearch({ of: table, name });
      say({ text: `${name} is kept.` });
    },
    onError: fail,
  });
  const away = useMutation({
    mutationFn: (m: Machine) =>
      need(api.DELETE("/api/{table}/{number}", { params: { path: { table, number: m.id } } })),
    onSuccess: (_, m) => {
      void refresh();
      setSearch({ of: table });
      say({
        text: `${m.name} is put away; what was printed with it still names it.`,
        action: { label: "Back on the shelf", run: () => keep.mutate(m.spec) },
      });
    },
    onError: fail,
  });
  const film = useMutation({
    mutationFn: (m: Machine) =>
      need(api.POST("/api/printers/{number}/film", { params: { path: { number: m.id } } })),
    onSuccess: () => {
      void refresh();
      say({ text: "Counted from now on." });
    },
    onError: fail,
  });
  const trouble = printers.error ?? materials.error ?? form.error;
  if (trouble) return <Trouble problem={problemOf(trouble)} />;
  const list = (of: Table, title: string, held: Machine[]) => (
    <section className="mb-4">
      <h2 className="font-medium">{title}</h2>
      <ul>
        {held.map((m) => (
          <li key={m.id}>
            <button
              type="button"
              aria-current={kept?.id === m.id && table === of}
              className="w-full border-b border-thread px-2 py-1.5 text-left aria-[current=true]:bg-indigo aria-[current=true]:text-onindigo"
              onClick={() => setSearch({ of, name: m.name })}
            >
              {m.name} <span className="text-[12.5px] opacity-75">{lineOf(m)}</span>
            </button>
          </li>
        ))}
      </ul>
    </section>
  );
  return (
    <main className="min-h-0 flex-1 overflow-y-auto px-8 py-5">
      <Crumbs trail={[{ text: "shelf" }]} />
      <h1 className="mb-3 text-[27px] leading-tight">What do you print with?</h1>
      <div className="flex flex-wrap items-start gap-x-10 gap-y-4">
        <nav aria-label="On the shelf" className="w-64">
          {list("printers", "Printers", printers.data ?? [])}
          {list("materials", "Materials", materials.data ?? [])}
          <p className="mb-3">
            <Link className="text-indigo underline" to="/stock">
              Stock, by bottle and spool
            </Link>
          </p>
          <h2 className="font-medium">Put on the shelf</h2>
          <div className="mt-1 flex flex-wrap gap-1.5">
            {NEW.map(([of, kind, text]) => (
              <button
                key={text}
                type="button"
                className="quiet px-2 text-[12.5px]"
                onClick={() => setSearch({ of, new: kind })}
              >
                {text}
              </button>
            ))}
          </div>
        </nav>
        <div className="min-w-[420px] flex-1">
          {kept && table === "printers" && (
            <p className="mb-3">
              <Link className="text-indigo underline" to={`/able/${kept.id}`}>
                What {kept.name} can do
              </Link>
            </p>
          )}
          {kept?.hours && table === "printers" && <Hours hours={kept.hours} />}
          {kept && table === "printers" && (
            <Scatter
              printer={kept}
              onTake={(scatter) => {
                keep.mutate({ ...kept.spec, scatter });
              }}
            />
          )}
          {kept?.process === "resin" && table === "printers" && (
            <Film printer={kept} onNew={() => film.mutate(kept)} />
          )}
          {form.data && (kept != null || fresh != null) && (
            <SpecForm
              key={`${table} ${process} ${kept?.id ?? "new"}`}
              fields={form.data}
              kept={kept ?? null}
              process={process}
              busy={keep.isPending || away.isPending}
              onKeep={keep.mutate}
              onAway={() => kept && away.mutate(kept)}
            />
          )}
        </div>
      </div>
    </main>
  );
}
