import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState, type FormEvent } from "react";
import { api, need, problemOf } from "../api/client";
import { Crumbs } from "../shell/Header";
import { Trouble } from "../shell/Trouble";
import { useView } from "../shell/view";
import { Backups } from "./Backups";
import { Currency } from "./Currency";

const MB = 2 ** 20;
const ROWS = [
  ["file_bytes", "One file", "MB", MB, "Larger files are refused before they travel."],
  ["triangles", "Triangles of one figure", "million", 1e6, "Above it a thinner copy is offered."],
  [
    "thinned_from",
    "Triangles that are read at all",
    "million",
    1e6,
    "Reading takes about 100 MB of memory a million.",
  ],
  ["unpacked_bytes", "An archive once unpacked", "MB", MB, "A small archive can hide a huge one."],
  [
    "entries",
    "Figures in an archive",
    "files",
    1,
    "Folders, pictures and texts in it do not count.",
  ],
] as const;
type Limits = Record<(typeof ROWS)[number][0], number>;

/** How much may come in. */
export function SettingsPage() {
  const { say, fail } = useView();
  const client = useQueryClient();
  const held = useQuery({
    queryKey: ["limits"],
    queryFn: () => need(api.GET("/api/settings/intake")),
  });
  const [changed, setChanged] = useState<Record<string, string>>({});
  useEffect(() => {
    document.title = "Settings · Tenugui";
  }, []);
  const inUnits = (name: keyof Limits, unit: number) =>
    held.data ? String(+(held.data[name] / unit).toFixed(3)) : "";
  const typed = Object.fromEntries(
    ROWS.map(([name, , , unit]) => [name, changed[name] ?? inUnits(name, unit)]),
  );
  const keep = useMutation({
    mutationFn: (body: Limits) => need(api.PUT("/api/settings/intake", { body })),
    onSuccess: (limits) => {
      client.setQueryData(["limits"], limits);
      setChanged({});
      say({ text: "The limits are kept." });
    },
    onError: fail,
  });
  if (held.error) return <Trouble problem={problemOf(held.error)} />;
  const wrong = ROWS.filter(([name]) => !(Number(typed[name]) > 0)).map(([, title]) => title);
  const less = Number(typed.thinned_from) < Number(typed.triangles);
  const submit = (event: FormEvent) => {
    event.preventDefault();
    keep.mutate(
      Object.fromEntries(
        ROWS.map(([name, , , unit]) => [name, Math.round(Number(typed[name]) * unit)]),
      ) as Limits,
    );
  };
  return (
    <main className="min-h-0 flex-1 overflow-y-auto px-8 py-5">
      <Crumbs trail={[{ text: "settings" }]} />
      <h1 className="text-[27px] leading-tight">How much may come in?</h1>
      <p className="mb-4 max-w-2xl text-faded">
        Files past these sizes are refused with what to do. Raise them where the machine has the
        memory; what lies on the bench stays as it is.
      </p>
      <form onSubmit={submit} className="max-w-3xl">
        {ROWS.map(([name, title, unit, , why]) => (
          <label
            key={name}
            className="grid grid-cols-[250px_110px_80px_1fr] items-center gap-3 border-b border-thread py-2"
          >
            <span className="font-medium">{title}</span>
            <input
              className="field text-right"
              inputMode="decimal"
              aria-label={`${title}, ${unit}`}
              value={typed[name] ?? ""}
              onChange={(e) => setChanged((t) => ({ ...t, [name]: e.target.value }))}
            />
            <span>{unit}</span>
            <span className="text-[13px] text-faded">{why}</span>
          </label>
        ))}
        {(wrong.length > 0 || less) && held.data && (
          <p role="alert" className="mt-3 text-persimmon">
            {wrong.length
              ? `${wrong.join(", ")}: give a number above zero.`
              : "What is read at all cannot be less than what is worked on."}
          </p>
        )}
        <button
          className="take mt-4"
          disabled={!held.data || wrong.length > 0 || less || keep.isPending}
        >
          Keep these limits
        </button>
      </form>
      <Backups />
      <Currency />
    </main>
  );
}
