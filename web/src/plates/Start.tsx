import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, need } from "../api/client";
import { useDeed } from "../api/memory";
import { saidOf } from "../folds/proof/MachineFile";
import { Playback, type Source } from "../folds/proof/Playback";
import { Waiting } from "../folds/Waiting";
import { clock, percent } from "../shell/format";
import { OnPlateMachine } from "./OnPlateMachine";
import { usePlateFile, type OnePlate, type Whole } from "./api";

/** A plate's own file. */
const ofPlate = (plate: number, k: number, sha: string): Source => ({
  key: `plate ${plate} ${k} ${sha}`,
  lines: (layer) =>
    need(
      api.GET("/api/plates/{number}/{k}/file/lines/{layer}", {
        params: { path: { number: plate, k, layer } },
      }),
    ),
  pixels: (layer, hangs) =>
    `/api/plates/${plate}/${k}/file/pixels/${layer}?of=${sha.slice(0, 12)}&hangs=${hangs}`,
});

/** What one plate takes, its files, and its start. */
export function Start({ whole, plate }: { whole: Whole; plate: OnePlate }) {
  const k = plate.number;
  const client = useQueryClient();
  const [written, setWritten] = useState(false);
  const { doc } = plate;
  const accepted = new Set(whole.pieces.filter((p) => p.accepted).map((p) => String(p.plan_id)));
  const open = [...new Set(doc.items.map((i) => i.plan))].filter((p) => !accepted.has(p));
  const file = usePlateFile(whole, k + 1, written && !plate.wrong.length);
  const begin = useDeed(
    "runs",
    () =>
      need(
        api.POST("/api/plates/{number}/{k}/start", {
          params: { path: { number: whole.id, k: k + 1 } },
          body: {},
        }),
      ),
    "Begun: each piece has a run of its own.",
  );
  const at = `/api/plates/${whole.id}/${k + 1}`;
  return (
    <section aria-label={`Plate ${k + 1}`}>
      <h2 className="text-[18px]">
        Plate {k + 1}: {clock(doc.time_s)}
      </h2>
      <p>
        {doc.material_ml.toFixed(1)} ml, {doc.material_g.toFixed(0)} g
        {doc.peak_pull_n > 0 && `; pulls by ${doc.peak_pull_n.toFixed(1)} N at most`};{" "}
        {percent(doc.risk)} that not all {doc.items.length} come off whole (prior).
      </p>
      <p className="mt-1 flex flex-wrap items-center gap-x-4 gap-y-1.5">
        <button
          type="button"
          className="take"
          disabled={!!plate.wrong.length || !!open.length || begin.isPending}
          onClick={() =>
            begin.mutate(undefined, {
              onSuccess: () => void client.invalidateQueries({ queryKey: ["plate", whole.id] }),
            })
          }
        >
          Begin it now
        </button>
        {!plate.wrong.length && (
          <>
            <a className="text-indigo underline" href={`${at}/files/pdf`}>
              sheet
            </a>
            <a className="text-indigo underline" href={`${at}/files/3mf`}>
              3MF
            </a>
            {!written && (
              <button
                type="button"
                className="text-indigo underline"
                onClick={() => setWritten(true)}
              >
                the machine's file
              </button>
            )}
          </>
        )}
      </p>
      {open.length > 0 && (
        <p className="text-[12.5px] text-faded">
          Begun when the proof of each of its plans is accepted: {open.length} is not.
        </p>
      )}
      {written && <Waiting of={file} what="Writing the plate's file, and reading it back" />}
      {file.document && (
        <p className={`text-[13px] ${file.document.differs ? "text-persimmon" : ""}`}>
          <a className="text-indigo underline" href={`${at}/file/content`} download>
            {file.document.kind === "layers" ? "Layers, ZIP of PNG" : "Path, G-code"}
          </a>{" "}
          {saidOf(file.document)}
        </p>
      )}
      {file.document && (
        <details className="text-[13px]">
          <summary className="cursor-pointer text-indigo">Play it back</summary>
          <Playback from={ofPlate(whole.id, k + 1, file.document.sha)} file={file.document} />
        </details>
      )}
      {file.document && !open.length && <OnPlateMachine whole={whole} k={k + 1} />}
    </section>
  );
}
