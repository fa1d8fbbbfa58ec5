import { useQuery, useQueryClient } from "@tanstack/react-query";
import { AlertDialog } from "radix-ui";
import { api, need, type Schemas } from "../api/client";
import { count, day } from "../shell/format";
import { useView } from "../shell/view";

/** Figures that were put away: each can come back, or be deleted for good. */
export function PutAway() {
  const client = useQueryClient();
  const { fail, say } = useView();
  const held = useQuery({
    queryKey: ["figures", "away"],
    queryFn: () => need(api.GET("/api/figures/away")),
  });
  if (!held.data?.length) return null;
  const path = (number: number) => ({ params: { path: { number } } });
  const refresh = () => void client.invalidateQueries({ queryKey: ["figures"] });
  const back = (id: number) =>
    need(api.POST("/api/figures/{number}/back", path(id))).then(refresh, fail);
  const drop = (figure: Schemas["AwayRow"]) =>
    need(
      api.DELETE("/api/figures/{number}", {
        params: { path: { number: figure.id }, query: { for_good: true } },
      }),
    ).then(() => {
      refresh();
      say({ text: `${figure.name} is deleted.` });
    }, fail);
  return (
    <details className="mt-6 text-[13.5px]">
      <summary className="cursor-pointer text-indigo">Put away: {held.data.length}</summary>
      <ul className="mt-1">
        {held.data.map((f) => (
          <li
            key={f.id}
            className="flex flex-wrap items-baseline gap-x-4 border-b border-thread py-1.5"
          >
            <span className="min-w-0 flex-1 truncate">
              {f.name}
              <span className="ml-3 text-[12.5px] text-faded">
                {count(f.triangles)} triangles, put away on {day(f.put_away_at)}
              </span>
            </span>
            <button type="button" className="text-indigo underline" onClick={() => void back(f.id)}>
              Put back
            </button>
            <ForGood figure={f} drop={() => void drop(f)} />
          </li>
        ))}
      </ul>
    </details>
  );
}

function ForGood({ figure, drop }: { figure: Schemas["AwayRow"]; drop: () => void }) {
  return (
    <AlertDialog.Root>
      <AlertDialog.Trigger className="text-persimmon underline">
        Delete for good
      </AlertDialog.Trigger>
      <AlertDialog.Portal>
        <AlertDialog.Overlay className="fixed inset-0 z-40 bg-[color-mix(in_srgb,var(--ink)_28%,transparent)]" />
        <AlertDialog.Content className="fixed top-[20vh] left-1/2 z-50 w-[460px] max-w-[92vw] -translate-x-1/2 border border-thread bg-paper p-5">
          <AlertDialog.Title className="font-display text-[19px] text-indigo">
            Delete {figure.name} for good?
          </AlertDialog.Title>
          <AlertDialog.Description className="mt-1 text-faded">
            Its file, plans and everything computed of them go. Prints that were made stay in the
            log. This cannot be taken back.
          </AlertDialog.Description>
          <div className="mt-4 flex justify-end gap-3">
            <AlertDialog.Cancel className="quiet">Keep it</AlertDialog.Cancel>
            <AlertDialog.Action className="take" onClick={drop}>
              Delete for good
            </AlertDialog.Action>
          </div>
        </AlertDialog.Content>
      </AlertDialog.Portal>
    </AlertDialog.Root>
  );
}
