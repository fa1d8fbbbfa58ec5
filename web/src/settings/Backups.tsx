import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, need } from "../api/client";
import { useView } from "../shell/view";
import { backupLine } from "./words";

/** A backup every night, and how many are kept. */
export function Backups() {
  const { say, fail } = useView();
  const client = useQueryClient();
  const { data } = useQuery({
    queryKey: ["backups"],
    queryFn: () => need(api.GET("/api/settings/backups")),
  });
  const [changed, setChanged] = useState<{ kept?: string; hour?: string }>({});
  const kept = Number(changed.kept ?? data?.kept ?? 0);
  const at = Number(changed.hour ?? data?.hour ?? 0);
  const sound =
    Number.isInteger(kept) && kept >= 0 && kept <= 60 && Number.isInteger(at) && at >= 0 && at < 24;
  const keep = useMutation({
    mutationFn: () => need(api.PUT("/api/settings/backups", { body: { kept, hour: at } })),
    onSuccess: (now) => {
      client.setQueryData(["backups"], now);
      setChanged({});
      say({ text: kept ? "Backups are taken so." : "No more backups are taken." });
    },
    onError: fail,
  });
  if (!data) return null;
  return (
    <section aria-label="Backups" className="mt-8 max-w-3xl">
      <h2 className="text-[20px]">A backup every night</h2>
      <p className={`mb-2 ${data.problem ? "text-persimmon" : "text-faded"}`}>{backupLine(data)}</p>
      <div className="flex flex-wrap items-center gap-4">
        <label>
          <span className="mr-2">kept</span>
          <input
            className="field w-16 text-right"
            inputMode="numeric"
            value={changed.kept ?? String(data.kept)}
            onChange={(e) => setChanged({ ...changed, kept: e.target.value })}
          />
        </label>
        <label>
          <span className="mr-2">taken from</span>
          <input
            className="field w-16 text-right"
            inputMode="numeric"
            value={changed.hour ?? String(data.hour)}
            onChange={(e) => setChanged({ ...changed, hour: e.target.value })}
          />{" "}
          o’clock on
        </label>
        <button
          type="button"
          className="quiet"
          disabled={!sound || keep.isPending}
          onClick={() => keep.mutate()}
        >
          Take them so
        </button>
      </div>
      <p className="mt-1 text-[13px] text-faded">
        They lie in the application’s own folder: copy one to another disk now and then. What can be
        computed again is left out; <code>./tenugui restore FILE</code> brings one back.
      </p>
    </section>
  );
}
