import { useEffect, useRef, useState, type DragEvent } from "react";
import { Link, useSearchParams } from "react-router";
import { problemOf, type FigureRow } from "../api/client";
import { useFigures, useJobs, useLog, useMachines, useMaterials } from "../api/queries";
import { Progress } from "../folds/Waiting";
import { Trouble } from "../shell/Trouble";
import { Lately, Printing, Shelf, UnderWay } from "./Aside";
import { dropped, useBringIn } from "./bringIn";
import { Card } from "./Card";
import { Find, useFound } from "./Find";
import { FirstHour } from "./FirstHour";
import { PutAway } from "./PutAway";
import { Today } from "./Today";

const NO_JOBS: never[] = [];
const NO_ROWS: FigureRow[] = [];

function lineOf(rows: FigureRow[] | undefined): string {
  if (!rows) return "Looking at the bench";
  if (!rows.length) return "Nothing lies here yet. Drop a figure's file anywhere on this page.";
  const ready = rows.filter((f) => f.next?.name === "log").length;
  const waiting = rows.length - ready;
  return `${waiting} figure${waiting === 1 ? " needs" : "s need"} a decision, ${ready} ready to print or printed.`;
}

/** What happens when files are held over the page and let go. */
function useDrop(drop: (transfer: DataTransfer) => void) {
  const [over, setOver] = useState(false);
  const stop = (e: DragEvent) => {
    e.preventDefault();
    e.stopPropagation();
  };
  return {
    over,
    handlers: {
      onDragEnter: (e: DragEvent) => {
        stop(e);
        setOver(true);
      },
      onDragOver: stop,
      onDragLeave: (e: DragEvent) => {
        stop(e);
        if (e.currentTarget === e.target) setOver(false);
      },
      onDrop: (e: DragEvent) => {
        stop(e);
        setOver(false);
        drop(e.dataTransfer);
      },
    },
  };
}

export function Bench() {
  const jobs = useJobs().data ?? NO_JOBS;
  const figures = useFigures(jobs.length > 0);
  const look = useFound(figures.data);
  const log = useLog().data;
  const runs = log?.runs ?? [];
  const materials = useMaterials().data ?? [];
  const machines = useMachines(runs.some((r) => r.simulated && !r.result)).data ?? [];
  const { sending, bring, offer, takeThinner, leave } = useBringIn();
  const { over, handlers } = useDrop((transfer) => void dropped(transfer).then(bring));
  const pick = useRef<HTMLInputElement>(null);
  const [search, setSearch] = useSearchParams();
  const asked = search.has("bring");
  useEffect(() => {
    document.title = "Bench · Tenugui";
  }, []);
  useEffect(() => {
    if (!asked) return;
    pick.current?.click();
    setSearch({}, { replace: true });
  }, [asked, setSearch]);
  if (figures.error) return <Trouble problem={problemOf(figures.error)} />;
  return (
    <main
      className={`min-h-0 flex-1 overflow-y-auto px-8 py-5 max-[1100px]:px-5 ${over ? "bg-folded" : ""}`}
      {...handlers}
    >
      <div className="grid grid-cols-[minmax(0,1fr)_300px] gap-10 max-[1100px]:gap-6 max-[900px]:grid-cols-1">
        <section aria-labelledby="needs">
          <div className="mb-3 flex items-end justify-between gap-6">
            <div>
              <h1 id="needs" className="text-[27px] leading-tight">
                On the bench
              </h1>
              <p className="text-faded">
                {lineOf(figures.data)}{" "}
                {(figures.data?.length ?? 0) > 2 && (
                  <Link to="/nights" className="text-indigo underline">
                    Plan many over night
                  </Link>
                )}
              </p>
            </div>
            <div>
              <input
                ref={pick}
                id="pick-file"
                type="file"
                accept=".stl,.obj,.ply,.3mf,.glb,.gltf,.zip"
                multiple
                className="sr-only"
                aria-label="Figure files"
                onChange={(e) => {
                  if (e.target.files) void bring([{ folder: null, files: [...e.target.files] }]);
                  e.target.value = "";
                }}
              />
              <button
                type="button"
                className="take whitespace-nowrap"
                onClick={() => pick.current?.click()}
              >
                Bring in a figure
              </button>
            </div>
          </div>
          {figures.data && log && (
            <FirstHour rows={figures.data} runs={runs} wanted={search.has("hour")} />
          )}
          {over && (
            <p className="mb-3 border-2 border-dashed border-indigo px-4 py-3 text-indigo">
              Let go: STL, OBJ, PLY, 3MF, glTF or ZIP. A folder becomes a kit.
            </p>
          )}
          {sending && (
            <div role="status" className="mb-3 border border-thread bg-paper px-4 py-2.5">
              <div className="flex justify-between">
                <span>
                  {sending.share < 1 ? `Bringing in ${sending.name}` : `Reading ${sending.name}`}
                </span>
                <button
                  type="button"
                  className="text-indigo underline"
                  onClick={() => sending.stop.abort()}
                >
                  Cancel
                </button>
              </div>
              <Progress share={sending.share} label={`Bringing in ${sending.name}`} />
            </div>
          )}
          {offer && (
            <div
              role="alert"
              className="mb-3 flex flex-wrap items-center gap-4 border border-l-4 border-thread border-l-persimmon bg-paper px-4 py-2.5"
            >
              <p className="min-w-[260px] flex-1">
                {offer.file.name} holds more triangles than can be worked on.{" "}
                <span className="text-faded">
                  {offer.what} A thinner copy keeps the surface; how far it moved is told in mm on
                  its fold Size.
                </span>
              </p>
              <button type="button" className="take" onClick={takeThinner}>
                Bring in a thinner copy
              </button>
              <button type="button" className="text-indigo underline" onClick={leave}>
                Leave it
              </button>
            </div>
          )}
          <Find rows={figures.data ?? NO_ROWS} {...look} />
          {look.found.length === 0 && (figures.data?.length ?? 0) > 0 && (
            <p className="text-faded">No figure on the bench is like that.</p>
          )}
          <ul
            aria-label="Figures"
            className="grid grid-cols-[repeat(auto-fill,minmax(290px,1fr))] gap-3"
          >
            {look.found.map((f) => (
              <Card key={f.id} figure={f} />
            ))}
          </ul>
          <PutAway />
        </section>
        <aside className="space-y-7 max-[900px]:grid max-[900px]:grid-cols-2 max-[900px]:gap-8 max-[900px]:space-y-0">
          <UnderWay jobs={jobs} />
          <Today />
          <Printing runs={runs} machines={machines} />
          <Shelf materials={materials} />
          <Lately runs={runs} />
        </aside>
      </div>
    </main>
  );
}
