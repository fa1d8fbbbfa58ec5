import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, need, problemOf, type Schemas } from "../../api/client";
import { clock } from "../../shell/format";
import { useView } from "../../shell/view";

type Offer = Schemas["StationOffer"];
type Kind = "wash" | "dry" | "cure";
const POLL_MS = 1000;
const SPEED = 600;
const VERB: Record<string, string> = { wash: "Wash", dry: "Dry", cure: "Cure" };

/** A programme, or how far it is. */
export function saidOf({ steps, state, said, busy }: Offer): string {
  if (state?.state === "done") return "done.";
  if (state)
    return `${state.step}: ${clock(state.done_s)} of ${clock(state.of_s)}, ${state.state}.`;
  const minutes = (m: number) => (m >= 60 ? `${m / 60} h` : `${m} min`);
  const listed = steps.map(([what, m]) => `${what} ${minutes(m)}`).join(", ");
  return `${listed}. ${said}${busy ? " Another load is in it." : ""}`;
}

/**
 * What the print goes through beside the printer once it is `printed`, or its filament before, on
 * simulated stations.
 */
export function Stations({ plan, printed }: { plan: number; printed: boolean }) {
  const client = useQueryClient();
  const { fail } = useView();
  const key = ["stations", plan];
  const path = { number: plan };
  const { data, error } = useQuery({
    queryKey: key,
    queryFn: () => need(api.GET("/api/plans/{number}/stations", { params: { path } })),
    refetchInterval: ({ state }) =>
      state.data?.some((o) => o.state?.state === "running") ? POLL_MS : false,
  });
  const start = useMutation({
    mutationFn: (station: Kind) =>
      need(
        api.POST("/api/plans/{number}/stations/{station}", {
          params: { path: { ...path, station } },
          body: { speed: SPEED },
        }),
      ),
    onSettled: () => void client.invalidateQueries({ queryKey: key }),
    onError: fail,
  });
  if (error)
    return (
      <p role="alert" className="mt-2 text-persimmon">
        {problemOf(error).message}
      </p>
    );
  if (!data?.length) return null;
  return (
    <div className="mt-2 border-t border-thread pt-2">
      <ul aria-label="Stations" className="space-y-1">
        {data.map((offer) => (
          <li key={offer.station} className="flex flex-wrap items-baseline gap-3">
            <button
              type="button"
              className="quiet w-16 px-2 py-0.5"
              disabled={
                !printed || offer.busy || offer.state?.state === "running" || start.isPending
              }
              onClick={() => {
                start.mutate(offer.station as Kind);
              }}
            >
              {VERB[offer.station]}
            </button>
            <span className="min-w-0 flex-1" aria-live="polite">
              {saidOf(offer)}
            </span>
          </li>
        ))}
      </ul>
      <p className="mt-1 text-[12.5px] text-faded">
        Times are priors: the sheets of your resin, fluid, lamp and filament come first.
      </p>
    </div>
  );
}
