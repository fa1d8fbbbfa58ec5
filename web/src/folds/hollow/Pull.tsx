import { Link } from "react-router";
import type { Schemas } from "../../api/client";

type PullData = Schemas["PullDoc"];
type Peak = Schemas["PeakDoc"];
type Remedy = Schemas["PullRemedy"];

const n = (v: number) => `${v.toFixed(v < 10 ? 1 : 0)} N`;

/** What a layer that pulls hard is, and how much of it sucks. */
export function peakLine(p: Peak): string {
  const where = `${n(p.pull_n)} at ${p.z_mm.toFixed(1)} mm, layer ${p.layer + 1}`;
  if (p.cause === "cup")
    return `${where}: a cup of ${p.sealed_mm2.toFixed(0)} mm² seals and sucks with ${n(p.suction_n)}`;
  if (p.cause === "raft") return `${where}: the raft, ${p.area_mm2.toFixed(0)} mm²`;
  const wide = `${p.area_mm2.toFixed(0)} mm²`;
  return p.cause === "shelf"
    ? `${where}: a flat of ${wide} begins`
    : `${where}: a section of ${wide}`;
}

function remedyLine(r: Remedy): string {
  const longer = r.longer_min
    ? `, ${r.longer_min < 90 ? `${r.longer_min.toFixed(0)} min` : `${(r.longer_min / 60).toFixed(1)} h`} longer`
    : "";
  return `${r.what}: ${n(r.pull_n)}${longer}`;
}

interface Peaking {
  peaks: Peak[];
  onLayer: (layer: number) => void;
}

function Rows({ peaks, onLayer }: Peaking) {
  return (
    <ul className="mt-1 space-y-0.5">
      {peaks.map((p) => (
        <li key={p.layer}>
          <button
            type="button"
            className="text-left underline decoration-thread underline-offset-2"
            title="cut the figure there"
            onClick={() => onLayer(p.layer)}
          >
            {peakLine(p)}
          </button>
        </li>
      ))}
    </ul>
  );
}

/** The layers of the whole print that pull hardest. */
export function Peaks(props: Peaking) {
  if (!props.peaks.length) return null;
  return (
    <section aria-label="What pulls hardest" className="mt-3 text-[13px]">
      <h2 className="font-medium">What pulls hardest</h2>
      <Rows {...props} />
    </section>
  );
}

interface Props {
  data: PullData;
  plan: number;
  onRow: (index: number) => void;
  onLayer: (layer: number) => void;
}

/** The layers that pull hardest, what holds them, and what each remedy leaves, cut anew. */
export function Pull({ data, plan, onRow, onLayer }: Props) {
  if (!data.peaks.length) return null;
  const tips = data.tips === 1 ? "One usual tip holds" : `${data.tips} usual tips hold`;
  const foot = `${data.plate_mm2.toFixed(0)} mm² flat on the plate`;
  const film = data.film_share * 100;
  return (
    <section aria-label="Pull" className="mt-3 text-[13px]">
      <h2 className="font-medium">What pulls hardest as it stands, without supports</h2>
      <Rows peaks={data.peaks} onLayer={onLayer} />
      <p className="mt-1 text-faded">
        {tips} the hardest at the usual risk, or {foot}. One print wears{" "}
        {film < 1 ? "less than 1" : film.toFixed(0)} % of a film. Priors.
      </p>
      {data.remedies.length > 0 && (
        <ul aria-label="What would pull less" className="mt-1 space-y-1">
          {data.remedies.map((r) => (
            <li key={r.kind} className="flex flex-wrap items-baseline gap-x-3">
              <span>{remedyLine(r)}</span>
              {r.kind === "tilt" && r.down && (
                <Link
                  className="text-indigo underline"
                  to={`/plan/${plan}/pose?hold=${r.down.map((v) => v.toFixed(5)).join(",")}`}
                >
                  hold it so in Pose
                </Link>
              )}
              {r.kind === "hollow" && r.option != null && (
                <button
                  type="button"
                  className="text-indigo underline"
                  onClick={() => onRow(r.option ?? 0)}
                >
                  look at it
                </button>
              )}
              {r.kind === "lift" && (
                <Link className="text-indigo underline" to="/shelf">
                  set the machine
                </Link>
              )}
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}
