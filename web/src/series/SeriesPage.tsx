import { useEffect, useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { api, need, problemOf } from "../api/client";
import { sendBody, useDeed, useSeries, type SeriesWhole } from "../api/memory";
import { Crumbs } from "../shell/Header";
import { BringFile } from "../ui/BringFile";
import { Trouble } from "../shell/Trouble";
import { Choice } from "../ui/Choice";
import { Cells } from "./Cells";
import { Effects } from "./Effects";
import { Grading } from "./Grading";
import { told } from "./read";
import { Swatches } from "./Swatches";
import { Tells } from "./Tells";

export function SeriesPage() {
  const { series: id = "0" } = useParams();
  const held = useSeries(Number(id));
  const name = held.data?.name;
  useEffect(() => {
    document.title = `${name ?? "Series"} · Tenugui`;
  }, [name]);
  if (held.error) return <Trouble problem={problemOf(held.error)} />;
  if (!held.data) return <p className="p-10 text-faded">Opening the series</p>;
  return <Book key={id} series={held.data} />;
}

/** What the series says in one sentence, the doubt first. */
export function lineOf({ doc, specimens }: SeriesWhole): string {
  const looked = specimens.filter((s) => Object.keys(s.found).length > 0).length;
  if (!looked)
    return `${specimens.length} specimens in ${doc.cells.length} cells, none looked at yet.`;
  const sure = doc.best.filter((b) => b.chance >= 0.8);
  const won = sure.map(
    (b) =>
      `${b.factor} ${told(b.level)} is best for ${b.response} (${Math.round(b.chance * 100)} %)`,
  );
  const start = `${looked} of ${specimens.length} looked at.`;
  if (!won.length) return `${start} No level stands out yet.`;
  return `${start} ${won.slice(0, 3).join("; ")}.`;
}

function Book({ series }: { series: SeriesWhole }) {
  const go = useNavigate();
  const responses = Object.keys(series.spec.responses);
  const [response, setResponse] = useState(responses[0]);
  const [sure, setSure] = useState(false);
  const [cell, setCell] = useState<number | null>(null);
  const path = { number: series.id };
  const bring = useDeed(
    "series",
    (file: File) => sendBody(`/api/series/${series.id}/results`, file),
    "The table is taken in whole.",
  );
  const more = useDeed("series", () =>
    need(api.POST("/api/series/{number}/next", { params: { path } })),
  );
  const drop = useDeed("series", () =>
    need(api.DELETE("/api/series/{number}", { params: { path } })),
  );
  const { doc } = series;
  return (
    <main className="min-h-0 flex-1 overflow-y-auto px-8 py-5 max-[1100px]:px-5">
      <Crumbs trail={[{ text: "Series", to: "/series" }, { text: series.name }]} />
      <h1 className="text-[27px] leading-tight">{series.name}</h1>
      <p className="max-w-[90ch] text-faded">
        {series.figure_name && (
          <>
            On <Link to={`/?find=${series.figure_name}`}>{series.figure_name}</Link>.{" "}
          </>
        )}
        {lineOf(series)}
      </p>
      {doc.said.map((text) => (
        <p key={text} role="note" className="mt-1 border-l-4 border-persimmon bg-paper px-3 py-1">
          {text}
        </p>
      ))}
      <div className="mt-4 flex flex-wrap items-start gap-x-10 gap-y-4">
        <section aria-label="Swatch book">
          <div className="mb-2 flex flex-wrap items-center gap-3">
            <span className="text-[13.5px] text-faded">each swatch tells</span>
            <Choice
              label="Response"
              value={response}
              options={responses.map((name) => ({ value: name, text: name }))}
              onValue={setResponse}
              small
            />
          </div>
          <Swatches series={series} response={response} shown={cell} onShown={setCell} />
        </section>
        <section aria-label="What next" className="max-w-[44ch] min-w-64 flex-1">
          <h2 className="text-[18px]">What to print next</h2>
          {doc.next && (
            <p>
              {Object.entries(doc.next.factors)
                .map(([name, level]) => `${name} ${told(level)}`)
                .join(", ")}
              <span className="text-faded">: {doc.next.why}</span>
            </p>
          )}
          <div className="mt-2 flex flex-wrap gap-2">
            <button
              type="button"
              className="quiet"
              disabled={!doc.next || more.isPending}
              onClick={() => more.mutate(undefined)}
            >
              Add a specimen of it
            </button>
            <a className="quiet inline-block" href={`/api/series/${series.id}/results.csv`}>
              Table to fill in
            </a>
            <BringFile
              text="Bring a table in"
              label="Results as a table"
              accept=".csv,text/csv"
              onFile={(file) => bring.mutate(file)}
            />
            <a className="quiet inline-block" href={`/api/series/${series.id}/whole.json`}>
              All of it as a file
            </a>
            <button
              type="button"
              className="quiet"
              onClick={() => {
                if (!sure) setSure(true);
                else
                  drop.mutate(undefined, {
                    onSuccess: () => void go("/series", { replace: true }),
                  });
              }}
            >
              {sure ? "For good, with all its grades?" : "Delete the series"}
            </button>
          </div>
          <Cells series={series} />
          <Tells series={series} />
        </section>
      </div>
      <Effects series={series} />
      <section aria-label="Grading" className="mt-5">
        <h2 className="text-[18px]">
          {cell == null ? "Every specimen" : "The specimens of this cell"}
        </h2>
        <Grading series={series} cell={cell} />
      </section>
    </main>
  );
}
