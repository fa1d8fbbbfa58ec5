import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, need, problemOf } from "../api/client";
import { usePrinters } from "../api/queries";
import { useAddress } from "../shell/address";
import { mm } from "../shell/format";
import { Pick } from "../ui/Pick";
import type { Fit } from "./api";

const soon = (hours: number) => {
  const at = new Date(Date.now() + hours * 3600_000 - new Date().getTimezoneOffset() * 60_000);
  return at.toISOString().slice(0, 14) + "00";
};

/** Which accepted plans end within a booked slot, and at which height or size others would. */
export function Slot() {
  const { search, put } = useAddress();
  const printers = usePrinters().data ?? [];
  const printer = Number(search.get("on") ?? printers.at(0)?.id ?? 0);
  const [usual] = useState(() => [soon(1), soon(9)]);
  const begin = search.get("from") ?? usual[0];
  const end = search.get("to") ?? usual[1];
  const fits = useQuery({
    queryKey: ["week", "fits", printer, begin, end],
    queryFn: () =>
      need(api.GET("/api/week/fits", { params: { query: { printer_id: printer, begin, end } } })),
    enabled: printer > 0 && !!begin && !!end,
    retry: false,
  });
  return (
    <section aria-label="What fits a slot">
      <div className="flex flex-wrap items-center gap-2">
        <Pick
          label="On which printer"
          value={String(printer)}
          options={printers.map((p) => ({ value: String(p.id), text: p.name }))}
          onValue={(v) => put({ on: v })}
        />
        <span>is mine from</span>
        <input
          type="datetime-local"
          className="field"
          aria-label="From"
          value={begin}
          onChange={(e) => put({ from: e.target.value })}
        />
        <span>to</span>
        <input
          type="datetime-local"
          className="field"
          aria-label="To"
          value={end}
          onChange={(e) => put({ to: e.target.value })}
        />
      </div>
      {fits.error && <p className="mt-2 text-persimmon">{problemOf(fits.error).message}</p>}
      {fits.data?.length === 0 && (
        <p className="mt-2 text-faded">No plan for it was accepted yet.</p>
      )}
      <ul className="mt-2">
        {fits.data?.map((f) => (
          <li
            key={f.plan_id}
            className="flex flex-wrap items-baseline gap-x-4 border-b border-thread py-1.5"
          >
            <Link className="min-w-40 text-indigo underline" to={`/plan/${f.plan_id}`}>
              {f.figure_name}
            </Link>
            <span className={f.fits ? "text-moss" : "text-persimmon"}>
              {f.hours.toFixed(1)} h, {f.hours_95.toFixed(1)} h in 19 of 20 cases:{" "}
              {f.fits ? "fits" : "does not"}
            </span>
            <span className="text-faded">{elseOf(f)}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}

/** How else it would fit. */
export function elseOf(f: Fit): string {
  const finer = f.heights.filter(([height]) => height < f.layer_mm - 1e-9);
  const coarser = f.heights.filter(([height]) => height > f.layer_mm + 1e-9);
  if (f.fits) {
    const best = finer.at(0);
    return best ? `finer too: ${mm(best[0])} in ${best[1].toFixed(1)} h` : "";
  }
  const ways = [];
  const way = coarser.at(0);
  if (way) ways.push(`at ${mm(way[0])} it takes ${way[1].toFixed(1)} h`);
  if (f.size_mm != null)
    ways.push(`at ${f.size_mm.toFixed(0)} mm tall with supports it would just fit (prior)`);
  return ways.join("; ");
}
