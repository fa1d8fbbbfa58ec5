import { useState } from "react";
import { useOthers } from "../../api/boards";
import type { Others, PlanState } from "../../api/client";
import { hm } from "../../shell/format";
import { Waiting } from "../Waiting";

/** The figure by other nozzles and machines, when somebody asks. */
export function Elsewhere({ plan, height }: { plan: PlanState; height: number }) {
  const [asked, setAsked] = useState(false);
  const others = useOthers(plan, asked, height);
  const found = others.document;
  return (
    <section aria-label="Other nozzles and machines" className="mt-3 text-[13px]">
      {!asked && (
        <button
          type="button"
          className="quiet px-3 py-1"
          onClick={() => {
            setAsked(true);
          }}
        >
          And with another nozzle, or another machine?
        </button>
      )}
      <Waiting of={others} what="Cutting it for other nozzles and machines" />
      {found && (
        <>
          {found.said.map((line) => (
            <p key={line}>{line}</p>
          ))}
          <Rows rows={found.rows} />
          <p className="text-faded">
            The figure as it stands here, without supports. A nozzle or a machine is chosen in the
            fold Size, and edited on the shelf.
          </p>
        </>
      )}
    </section>
  );
}

function Rows({ rows }: { rows: Others["rows"] }) {
  return (
    <table aria-label="By nozzle and machine" className="mt-1 w-full max-w-[680px] text-right">
      <thead className="text-[12px] text-faded">
        <tr>
          <th className="text-left font-normal">by</th>
          <th className="font-normal">layers mm</th>
          <th className="font-normal">time</th>
          <th className="font-normal">grams</th>
          <th className="font-normal">cost</th>
          <th className="font-normal">steps µm</th>
          <th className="font-normal">not drawn %</th>
          <th className="font-normal">blemishes</th>
        </tr>
      </thead>
      <tbody>
        {rows.map((r, i) => (
          <tr
            key={`${r.place} ${r.layer_height_mm}`}
            className={`border-t border-thread ${i ? "" : "font-semibold"}`}
          >
            <td className="text-left">
              {r.place}
              {!i && ", as chosen"}
              {!r.fits && <span className="text-persimmon"> too small for it</span>}
            </td>
            <td>{r.layer_height_mm}</td>
            <td>{hm(r.time_s)}</td>
            <td>{r.material_g.toFixed(0)}</td>
            <td>{r.cost.toFixed(2)}</td>
            <td>{(r.cusp_mm.p95 * 1000).toFixed(0)}</td>
            <td>{(r.lost_share * 100).toFixed(1)}</td>
            <td>{r.process === "filament" ? r.blemishes.toFixed(1) : ""}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
