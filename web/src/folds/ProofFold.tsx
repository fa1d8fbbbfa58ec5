import { useState } from "react";
import { useProof, useTrial } from "../api/boards";
import { Matrix4, Vector3 } from "three";
import type { Hazard, Place, ProofBoard, SupportsRow } from "../api/client";
import { useCautions } from "../api/queries";
import { ChanceBar, Swatch } from "../patterns/Patterns";
import { clock, count, percent } from "../shell/format";
import type { Item } from "../stage/scene";
import { Board, type Column } from "../ui/Board";
import { useStage, useTake } from "./board";
import { Peaks } from "./hollow/Pull";
import { Deciding, Heading, NotYet } from "./Heading";
import { PartLinks, ProofPart } from "./proof/Parts";
import { Offer } from "./proof/Offer";
import { MachineFile } from "./proof/MachineFile";
import { Removal } from "./proof/Removal";
import { withoutSpecks } from "./proof/specks";
import { Walk } from "./proof/Walk";
import { lostOf, WillItPrint, type Cause } from "./proof/WillItPrint";
import { marginsOf } from "./supports/margins";
import { askedFold, foldOf, type FoldProps } from "./types";
import { Waiting } from "./Waiting";

const PLACELESS = ["mishap", "open-surface"];
/** What has no measure of which there could be more or less. */
const UNMEASURED = ["mishap", "stands-on-figure", "locked"];
const FEW = 3;
const RING_MM = 0.8;
const FILES = [
  ["3mf", "3MF"],
  ["stl", "STL"],
  ["pdf", "Run sheet, PDF"],
] as const;

const COLUMNS: Column<Hazard>[] = [
  { id: "layer", head: "layer", name: "layer", from: 420, cell: (h) => count(h.layer + 1) },
  {
    id: "margin",
    head: "has / needs",
    name: "has / needs",
    from: 560,
    cell: (h) =>
      !UNMEASURED.includes(h.code) && (
        <span className="whitespace-nowrap text-[13px]">
          {short(h.has)} / {short(h.needs)}{" "}
          <span className="text-[11.5px] text-faded">{h.unit}</span>
        </span>
      ),
  },
  {
    id: "cost",
    head: "would cost",
    name: "would cost",
    from: 500,
    cell: (h) => <span className="whitespace-nowrap text-[13px]">{h.loss}</span>,
  },
  { id: "chance", head: "chance %", cell: (h) => <ChanceBar chance={h.chance} /> },
];

/** Two digits that tell something, and no powers of ten. */
const short = (v: number) => (Math.abs(v) >= 100 ? count(Math.round(v)) : v.toPrecision(2));

const many = (n: number, one: string, more = `${one}s`) => `${n || "no"} ${n === 1 ? one : more}`;

function lineOf({ proof, held }: ProofBoard): string {
  const found = [
    `${many(held.islands_after, "island")} left`,
    ...(proof.islands.length > held.islands_after
      ? [`${many(proof.islands.length - held.islands_after, "speck")} of relief unheld`]
      : []),
    many(proof.sealed.length, "sealed space"),
    `${proof.trapped.length || "no"} trapped`,
  ];
  const rough = proof.time_is === "rough estimate" ? " (rough)" : "";
  const read = `All ${count(proof.layers.count)} layers read: ${found.join(", ")}.`;
  return `${read} ${clock(proof.time_s)}${rough}, risk ${percent(proof.risk)} (prior).`;
}

const same = (a: Hazard, b: Hazard) =>
  a.code === b.code && a.layer === b.layer && a.x_mm === b.x_mm && a.y_mm === b.y_mm;
/** Rings around the tips of a group. */
function groupItem(row: SupportsRow, tips: number[], factor: number): Item {
  const back = new Matrix4().fromArray(row.matrix).invert();
  const rows = tips.map((k) => ({
    at: new Vector3(...row.spots[k].at).applyMatrix4(back).toArray(),
    axis: [0, 0, 1] as Place,
    radius: RING_MM / factor,
    chosen: true,
    through: true,
  }));
  return { kind: "holes", rows };
}

export function ProofFold({ plan, show, onLayer, settled }: FoldProps) {
  const held = foldOf(plan, "proof");
  const board = useProof(plan, held.ready);
  const { take, busy } = useTake(plan, "proof", board.key, settled);
  const data = board.document ?? board.old;
  const accepted = held.state === "settled";
  const hollow = askedFold(plan, "hollow")?.choice;
  const plugged = !!hollow?.wishes?.plugs && !!hollow.holes?.length;
  const [picked, setPicked] = useState<Hazard | null>(null);
  const trial = useTrial(plan, held.ready && !!board.document);
  const [cause, setCause] = useState<Cause | null>(null);
  const [group, setGroup] = useState<number | null>(null);
  const [wanted, setAll] = useState<boolean | null>(null);
  const hazards = data?.proof.hazards ?? [];
  const cautions = useCautions(foldOf(plan, "size").choice?.process).data ?? [];
  const pinned = cause ?? picked;
  const pin: Item[] =
    pinned && !PLACELESS.includes(pinned.code)
      ? [{ kind: "pin", x: pinned.x_mm, y: pinned.y_mm, z: pinned.z_mm, text: pinned.message }]
      : [];
  const row = data?.held;
  const size = foldOf(plan, "size").choice?.factor ?? 1;
  const shownGroup = group == null ? undefined : data?.removal.groups.at(group);
  useStage(
    show,
    {
      items: [
        {
          kind: "figure",
          sha: null,
          matrix: row?.matrix,
          thick: lostOf(trial.document) ?? marginsOf(row),
        },
        ...(row?.supports_sha ? [{ kind: "supports" as const, sha: row.supports_sha }] : []),
        ...pin,
        ...(row && shownGroup ? [groupItem(row, shownGroup.tips, size)] : []),
      ],
      foot: row
        ? { kind: "strip", data: row.strip }
        : { kind: "empty", text: "Every layer is being read." },
      figures: { shown: accepted ? null : row?.numbers },
      stale: !!data && !board.document && !board.draft,
    },
    [row, board.document, pinned, accepted, group, trial.document],
  );
  if (!held.ready)
    return <NotYet plan={plan} fold="proof" line="The proof reads the whole plan." />;
  const weighty = hazards.filter((h) => h.severity !== "notice");
  // With little that weighs, the small ones are worth a look too.
  const all = wanted ?? weighty.length < FEW;
  const rows = withoutSpecks(all ? hazards : weighty);
  // The ribbon counts in its finest layers, which those of bands are not.
  const cutAt = (z: number) => {
    if (!row) return;
    const at = Math.floor(z / row.strip.layer_height_mm + 1e-6);
    onLayer(Math.max(0, Math.min(at, row.strip.layers - 1)));
  };
  const pick = (h: Hazard) => {
    setPicked(h);
    setCause(null);
    cutAt(h.z_mm);
  };
  return (
    <>
      <Heading
        title={held.question}
        line={data ? lineOf(data) : "Every layer of the whole plan is read."}
      />
      <Waiting of={board} what="Proving every layer" />
      {data && (
        <>
          <PartLinks ready={!!trial.document} />
          <ProofPart name="prints">
            <Waiting of={trial} what="Printing it a thousand times" />
            {trial.document && (
              <WillItPrint
                plan={plan}
                trial={trial.document}
                layers={data.held.strip.layers}
                height={data.held.strip.layer_height_mm}
                picked={cause}
                onPick={(c) => {
                  setCause(c);
                  cutAt(c.z_mm);
                }}
              />
            )}
          </ProofPart>
          <ProofPart name="hazards">
            <label className="flex items-center justify-end gap-2 text-[13px] text-faded">
              <input type="checkbox" checked={all} onChange={(e) => setAll(e.target.checked)} />
              small ones too ({hazards.length - weighty.length})
            </label>
            <Board
              label="Risk ledger"
              textHead="hazard, costliest first"
              rows={rows}
              keyOf={(h) => `${h.code} ${h.layer} ${h.x_mm} ${h.y_mm} ${h.z_mm}`}
              columns={COLUMNS}
              text={(h) => (
                <span className="flex items-start gap-2.5">
                  <span className="pt-0.5">
                    <Swatch code={h.code} />
                  </span>
                  <span>
                    <span className="block text-[14px]">{h.message}</span>
                    <span className="block text-[12.5px] text-faded">{h.remedy}</span>
                  </span>
                </span>
              )}
              shown={picked ? rows.findIndex((h) => same(h, picked)) : -1}
              onShown={(i) => pick(rows[i])}
            />
            {!rows.length && (
              <p className="mt-3 text-moss">
                No hazard worth a line. {hazards.length ? "The small ones can be shown above." : ""}
              </p>
            )}
          </ProofPart>
          <ProofPart name="layers">
            <Walk
              plan={plan}
              proof={board.document ? board.key : null}
              layers={data.proof.layers.count}
              stops={data.stops}
              onStop={(stop) => cutAt(stop.z_mm)}
            />
            <Peaks peaks={data.proof.peaks} onLayer={onLayer} />
          </ProofPart>
          <ProofPart name="off">
            <Removal plan={plan.id} data={data.removal} picked={group} onPick={setGroup} />
          </ProofPart>
          <ProofPart name="files">
            <MachineFile plan={plan} strip={board.document?.held.strip} />
            <Offer plan={plan} ready={!!board.document} />
          </ProofPart>
          <details className="mt-3 text-[13px]">
            <summary className="cursor-pointer text-indigo">
              Before you start: {cautions.length} cautions
            </summary>
            <ul className="mt-1 list-disc space-y-0.5 pl-5">
              {cautions.map((c) => (
                <li key={c}>{c}</li>
              ))}
            </ul>
          </details>
          <Deciding
            said={
              board.document
                ? "The files are those of this proof."
                : "The files come with the proof."
            }
          >
            {plugged && (
              <a className="quiet" href={`/api/plans/${plan.id}/plugs`} download>
                Plugs
              </a>
            )}
            {FILES.map(([kind, text]) => (
              <a
                key={kind}
                className={`quiet ${board.document ? "" : "pointer-events-none opacity-50"}`}
                href={`/api/plans/${plan.id}/files/${kind}`}
                download
              >
                {text}
              </a>
            ))}
            <button
              type="button"
              className="take"
              disabled={!board.document || busy}
              onClick={() => take(0)}
            >
              {accepted ? "Accepted. Accept again" : "Accept this plan"}
            </button>
          </Deciding>
        </>
      )}
    </>
  );
}
