import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";
import { api, need, problemOf, type Schemas } from "../api/client";
import { sendBody, useDeed, useSeriesList, type Spec } from "../api/memory";
import { useFigures, useMaterials, usePrinters } from "../api/queries";
import { day } from "../shell/format";
import { Crumbs } from "../shell/Header";
import { Trouble } from "../shell/Trouble";
import { BringFile } from "../ui/BringFile";
import { Pick } from "../ui/Pick";
import { SpecEditor } from "./SpecEditor";

type Shipped = Schemas["ShippedRow"];

/** All series, and those that ship: what people ask of their machines. */
export function SeriesList() {
  const [search, setSearch] = useSearchParams();
  const listed = useSeriesList();
  const bring = useDeed(
    "series",
    (file: File) => sendBody("/api/series/bring", new Blob([file], { type: "application/json" })),
    "The series is on this bench, with all that was found of it.",
  );
  useEffect(() => {
    document.title = "Series · Tenugui";
  }, []);
  if (listed.error) return <Trouble problem={problemOf(listed.error)} />;
  return (
    <main className="min-h-0 flex-1 overflow-y-auto px-8 py-5 max-[1100px]:px-5">
      <Crumbs trail={[{ text: "Series" }]} />
      <h1 className="text-[27px] leading-tight">What do you want to know for sure?</h1>
      <p className="mb-4 max-w-[90ch] text-faded">
        A series prints one figure or test piece at several settings, says before the first print
        what it will not be able to tell, and reads the result with its doubt.
      </p>
      <div className="flex flex-wrap items-start gap-x-10 gap-y-5">
        <section aria-label="Series" className="min-w-80 flex-1">
          <h2 className="text-[18px]">Series on the bench</h2>
          {listed.data?.length === 0 && (
            <p className="text-faded">None yet. Plan one from those that ship, beside.</p>
          )}
          <ul>
            {listed.data?.map((s) => (
              <li key={s.id} className="border-b border-thread">
                <Link
                  to={`/series/${s.id}`}
                  className="flex flex-wrap items-baseline gap-x-4 py-2 hover:bg-paper"
                >
                  <span className="font-display text-[16px] text-indigo">{s.name}</span>
                  <span className="text-faded">{s.figure_name ?? "test piece"}</span>
                  <span className="ml-auto">
                    {s.looked_at} of {s.specimens} looked at
                  </span>
                  <span className="text-[12.5px] text-faded">{day(s.created_at)}</span>
                </Link>
              </li>
            ))}
          </ul>
          <div className="mt-3">
            <BringFile
              text="Bring a series in"
              label="A series as a file"
              accept=".json,application/json"
              onFile={(file) => bring.mutate(file)}
            />
          </div>
        </section>
        <New
          wanted={search.get("new")}
          onWanted={(code) => setSearch(code ? { new: code } : {}, { replace: true })}
        />
      </div>
    </main>
  );
}

function New({
  wanted,
  onWanted,
}: {
  wanted: string | null;
  onWanted: (code: string | null) => void;
}) {
  const printers = usePrinters().data ?? [];
  const materials = useMaterials().data ?? [];
  const [chosen, setChosen] = useState<number | null>(null);
  const printer = printers.find((p) => p.id === chosen) ?? printers.at(0);
  const material = materials.find((m) => m.process === printer?.process);
  const offers = useQuery({
    queryKey: ["shipped", printer?.id, material?.id],
    queryFn: () =>
      need(
        api.GET("/api/series/shipped", {
          params: { query: { printer_id: printer?.id ?? 0, material_id: material?.id ?? 0 } },
        }),
      ),
    enabled: !!printer && !!material,
  });
  const offer = offers.data?.find((o) => o.code === wanted);
  return (
    <section aria-label="A new series" className="min-w-96 flex-1">
      <div className="flex flex-wrap items-baseline gap-3">
        <h2 className="text-[18px]">Plan one</h2>
        <Pick
          label="For which printer"
          value={String(printer?.id ?? "")}
          options={printers.map((p) => ({ value: String(p.id), text: p.name }))}
          onValue={(v) => setChosen(Number(v))}
        />
      </div>
      <ul>
        {offers.data?.map((o) => (
          <li key={o.code} className="border-b border-thread">
            <button
              type="button"
              aria-expanded={o.code === wanted}
              className="flex w-full flex-wrap items-baseline gap-x-4 py-1.5 text-left hover:bg-paper"
              onClick={() => onWanted(o.code === wanted ? null : o.code)}
            >
              <span className="font-medium">{o.title}</span>
              <span className="text-faded">{o.asks}</span>
            </button>
            {o.code === wanted && offer && (
              <Plan key={`${o.code} ${printer?.id}`} offer={offer} on={printer?.name ?? ""} />
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}

function Plan({ offer, on }: { offer: Shipped; on: string }) {
  const go = useNavigate();
  const figures = useFigures().data ?? [];
  const [spec, setSpec] = useState<Spec | null>(offer.spec);
  const [name, setName] = useState(`${offer.title} on ${on}`);
  const [figure, setFigure] = useState("");
  const plan = useDeed("series", (of: Spec) =>
    need(
      api.POST("/api/series", {
        body: { name, spec: of, figure_id: figure ? Number(figure) : null },
      }),
    ),
  );
  const prints = spec
    ? Object.values(spec.factors).reduce((n, levels) => n * levels.length, spec.repeats)
    : 0;
  return (
    <form
      className="space-y-2 bg-paper px-3 py-2"
      onSubmit={(e) => {
        e.preventDefault();
        if (spec) plan.mutate(spec, { onSuccess: (id) => void go(`/series/${id}`) });
      }}
    >
      <label className="block">
        <span className="block text-[12.5px] text-faded">name</span>
        <input
          className="field w-full"
          maxLength={120}
          value={name}
          onChange={(e) => setName(e.target.value)}
        />
      </label>
      <SpecEditor spec={offer.spec} onSpec={setSpec} />
      <div className="flex flex-wrap items-center gap-3">
        {offer.piece ? (
          <a className="text-indigo underline" href={pieceOf(offer)}>
            its test piece as STL
          </a>
        ) : (
          <Pick
            label="On which figure"
            value={figure || "none"}
            options={[
              { value: "none", text: "no figure yet" },
              ...figures.map((f) => ({ value: String(f.id), text: f.name })),
            ]}
            onValue={(v) => setFigure(v === "none" ? "" : v)}
          />
        )}
        <button className="take" disabled={!spec || !name.trim() || plan.isPending}>
          Plan {prints} prints
        </button>
      </div>
    </form>
  );
}

/** The test piece at the levels that its series asks of it. */
export function pieceOf({ piece, ability, spec }: Shipped): string {
  const levels = ability && piece !== "gap" ? (Object.values(spec.factors).at(0) ?? []) : [];
  const asked = levels.map((level) => `levels=${String(level)}`).join("&");
  return `/api/series/pieces/${encodeURIComponent(piece ?? "")}${asked ? `?${asked}` : ""}`;
}
