import { useEffect } from "react";
import { Link } from "react-router";
import { useLog } from "../api/queries";
import { Crumbs } from "../shell/Header";
import { clock, day, hour, percent } from "../shell/format";

/** Every run, what was planned and what became of it. */
export function LogPage() {
  const log = useLog();
  useEffect(() => { document.title = "Log · Tenugui"; }, []);
  const runs = log.data ?? [];
  const ended = runs.filter((r) => r.result);
  const good = ended.filter((r) => r.result === "good" || r.result === "scarred").length;
  const timed = ended.filter((r) => r.real_s);
  const logs = timed.map((r) => Math.log(r.real_s! / r.planned_s));
  const mean = logs.reduce((a, b) => a + b, 0) / (logs.length || 1);
  const spread = Math.sqrt(logs.reduce((s, v) => s + (v - mean) ** 2, 0) / Math.max(1, logs.length - 1));
  const foretold = ended.reduce((s, r) => s + r.planned_risk, 0) / (ended.length || 1);
  return (
    <main className="min-h-0 flex-1 overflow-y-auto px-8 py-5">
      <Crumbs trail={[{ text: "Log" }]} />
      <h1 className="text-[27px] leading-tight">What the prints have told</h1>
      <p className="mb-4 text-faded">
        {ended.length ? `${ended.length} outcomes. ${good} came out whole; the plans foretold ${percent(1 - foretold)} (prior). ${timed.length > 1 ? `Real time over planned: ${Math.exp(mean).toFixed(2)}, spread ${(spread * 100).toFixed(0)} %.` : ""} ${ended.length < 20 ? "Few prints so far: take these with a grain of salt." : ""}` : "No outcome has been logged yet. Start a run in a plan's fold Log."}
      </p>
      <table className="board" aria-label="Runs">
        <thead><tr><th>started</th><th style={{ textAlign: "left" }}>figure</th><th style={{ textAlign: "left" }}>printer, material</th><th>planned<br />h:min</th><th>real<br />h:min</th><th>planned<br />g</th><th>real<br />g</th><th>risk<br />foretold</th><th style={{ textAlign: "left" }}>outcome</th><th style={{ textAlign: "left" }}>note</th></tr></thead>
        <tbody>
          {runs.map((r) => (
            <tr key={r.id}>
              <td className="whitespace-nowrap">{day(r.started_at)}, {hour(r.started_at)}</td>
              <td style={{ textAlign: "left" }}><Link className="text-indigo underline underline-offset-2" to={`/plan/${r.plan_id}/log`}>{r.figure_name}</Link></td>
              <td style={{ textAlign: "left" }} className="text-faded">{r.printer_name}, {r.material_name}</td>
              <td>{clock(r.planned_s)}</td><td>{r.real_s ? clock(r.real_s) : ""}</td><td>{r.planned_g.toFixed(0)}</td><td>{r.real_g ? r.real_g.toFixed(0) : ""}</td><td>{percent(r.planned_risk)}</td>
              <td style={{ textAlign: "left" }} className={r.result === "good" ? "text-moss" : "text-persimmon"}>{r.result ?? "running or not logged"}{r.failed_layer ? `, layer ${r.failed_layer}` : ""}</td>
              <td style={{ textAlign: "left" }} className="text-[13.5px]">{r.note}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </main>
  );
}
