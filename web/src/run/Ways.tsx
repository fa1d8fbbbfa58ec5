import { coin } from "../shell/coin";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, need, problemOf, type Run, type Schemas } from "../api/client";
import { useView } from "../shell/view";

type Way = Schemas["WayDoc"];
type Chosen = Schemas["WayChosen"]["way"];

const NAMES: Record<string, string> = {
  apart: "print the lost part apart",
  glue: "glue it",
  hide: "hide it",
  print: "print it again",
};

/** What failed: mended, or printed again? The choice is kept, and what is mended counts as made. */
export function Ways({ run }: { run: Run }) {
  const lost = run.result === "part lost" || run.result === "print lost";
  const client = useQueryClient();
  const { fail } = useView();
  const [busy, setBusy] = useState(false);
  const path = { params: { path: { number: run.id } } };
  const { data, error } = useQuery({
    queryKey: ["run", run.id, "ways"],
    queryFn: () => need(api.GET("/api/runs/{number}/ways", path)),
    enabled: lost,
    retry: false,
  });
  if (!lost) return null;
  const choose = (way: Chosen) => {
    setBusy(true);
    need(api.PUT("/api/runs/{number}/ways", { ...path, body: { way } }))
      .then(() => client.invalidateQueries({ queryKey: ["run", run.id, "ways"] }))
      .catch(fail)
      .finally(() => setBusy(false));
  };
  return (
    <section aria-label="Mend it, or print it again?" className="mt-4">
      <h2 className="text-[18px]">Mend it, or print it again?</h2>
      {error && (
        <p className="text-[13.5px] text-faded">
          {problemOf(error).message} {problemOf(error).remedy}
        </p>
      )}
      {data && (
        <>
          <table className="w-full max-w-[760px] text-[13.5px]">
            <thead className="text-left text-faded">
              <tr>
                <th className="font-normal">way</th>
                <th className="w-20 text-right font-normal">minutes</th>
                <th className="w-20 text-right font-normal">hours</th>
                <th className="w-20 text-right font-normal">{coin()}</th>
                <th className="w-24 text-right font-normal">comes out</th>
                <th className="w-32" />
              </tr>
            </thead>
            <tbody>
              <WayLine
                way={data.ways.mend}
                best={data.ways.recommended === "mend"}
                chosen={data.chosen === data.by}
                busy={busy}
                onChoose={() => choose(data.chosen === data.by ? null : (data.by as Chosen))}
              />
              <WayLine
                way={data.ways.print}
                best={data.ways.recommended === "print"}
                chosen={data.chosen === "print"}
                busy={busy}
                onChoose={() => choose(data.chosen === "print" ? null : "print")}
              />
            </tbody>
          </table>
          <p className="mt-1 text-[12.5px] text-faded">
            By the plan as it stands, at the usual rates; minutes and chances are priors. Wear
            gloves with uncured resin, and glasses where pieces snap.
          </p>
        </>
      )}
    </section>
  );
}

interface LineProps {
  way: Way;
  best: boolean;
  chosen: boolean;
  busy: boolean;
  onChoose: () => void;
}

function WayLine({ way, best, chosen, busy, onChoose }: LineProps) {
  return (
    <tr className="border-t border-thread align-baseline">
      <td className="py-1.5 pr-3">
        {NAMES[way.way] ?? way.way}
        {best && <span className="ml-2 text-[12.5px] text-moss">recommended</span>}
        <span className="block text-[12.5px] text-faded">{way.said}</span>
      </td>
      <td className="text-right">{way.hands_min.toFixed(0)}</td>
      <td className="text-right">{way.hours.toFixed(1)}</td>
      <td className="text-right">{way.coins.toFixed(2)}</td>
      <td className="text-right">{Math.round(way.chance * 100)} %</td>
      <td className="text-right">
        <button
          type="button"
          className="quiet px-2.5 py-0.5 text-[13px]"
          aria-pressed={chosen}
          disabled={busy}
          onClick={onChoose}
        >
          {chosen ? "chosen" : "do this"}
        </button>
      </td>
    </tr>
  );
}
