import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, need, problemOf } from "../api/client";
import { percent } from "../shell/format";
import type { PieceState } from "./api";

/** More supports, or more pieces: the plan's support sets, and how many of each a plate holds. */
export function Sets({ plate, of }: { plate: number; of: PieceState }) {
  const [open, setOpen] = useState(false);
  const { data, error } = useQuery({
    queryKey: ["plate", plate, "sets", of.plan_id],
    queryFn: () =>
      need(
        api.GET("/api/plates/{number}/sets/{plan}", {
          params: { path: { number: plate, plan: of.plan_id } },
        }),
      ),
    enabled: open,
  });
  return (
    <details
      className="w-full text-[13px]"
      onToggle={(e) => {
        setOpen(e.currentTarget.open);
      }}
    >
      <summary className="cursor-pointer text-indigo">More supports, or more pieces?</summary>
      {error && <p className="text-persimmon">{problemOf(error).message}</p>}
      {data && (
        <table className="board" aria-label={`Support sets of ${of.figure_name} on this plate`}>
          <thead>
            <tr>
              <th>supports</th>
              <th>lost</th>
              <th>min each</th>
              <th>fit</th>
              <th>h a good one</th>
            </tr>
          </thead>
          <tbody>
            {data.map((row) => (
              <tr
                key={`${row.style} ${row.risk} ${row.tips}`}
                className={row.taken ? "font-medium" : ""}
              >
                <td className="board-left">
                  {row.style}, {row.tips}
                  {row.taken && " (taken)"}
                </td>
                <td>{percent(row.lost)}</td>
                <td>{row.hands_min.toFixed(0)}</td>
                <td>{row.fits}</td>
                <td>{row.hours_per_good == null ? "none fits" : row.hours_per_good.toFixed(2)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {data && (
        <p className="text-faded">
          By their boxes, {of.figure_name} alone on the plate; chances are priors. Another set is
          taken in the plan’s fold Supports.
        </p>
      )}
    </details>
  );
}
