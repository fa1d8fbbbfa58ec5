import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, need, type PrintFile, type Schemas } from "../api/client";
import { useComputation } from "../api/queries";
import { useView } from "../shell/view";

export type Whole = Schemas["PlateWhole"];
export type OnePlate = Schemas["OnePlate"];
export type Lying = Schemas["Lying"];
export type Line = Schemas["Line"];
export type Box = Schemas["BoxAsk"];
export type PieceState = Schemas["PieceState"];

const path = (number: number) => ({ params: { path: { number } } });

export const usePlates = () =>
  useQuery({ queryKey: ["plates"], queryFn: () => need(api.GET("/api/plates")) });

export const useOffers = (printer: number | undefined) =>
  useQuery({
    queryKey: ["plates", "offers", printer],
    queryFn: () =>
      need(
        api.GET("/api/plates/offers/{printer_id}", {
          params: { path: { printer_id: printer ?? 0 } },
        }),
      ),
    enabled: !!printer,
  });

/** A plate; while a footprint is drawn it is asked again. */
export const usePlate = (id: number) =>
  useQuery({
    queryKey: ["plate", id],
    queryFn: () => need(api.GET("/api/plates/{number}", path(id))),
    enabled: id > 0,
    refetchInterval: (q) =>
      q.state.data?.pieces.some((p) => p.state === "counting" && p.job_id) ? 700 : false,
  });

/** What can be done to a plate: each deed ends with the plate as it then stands. */
export function usePlateDeeds(plate: Whole) {
  const client = useQueryClient();
  const { fail } = useView();
  const deed = useMutation({
    mutationFn: (act: () => Promise<Whole>) => act(),
    onSuccess: (now) => client.setQueryData(["plate", plate.id], now),
    onError: (error) => {
      fail(error);
      void client.invalidateQueries({ queryKey: ["plate", plate.id] });
    },
  });
  const of = path(plate.id);
  const { version } = plate;
  const plan = {
    name: plate.name,
    printer_id: plate.printer_id,
    gap_mm: plate.gap_mm,
    rates: plate.rates as "evening" | "order" | "army",
    free: plate.free,
    in_turn: plate.in_turn,
    pieces: plate.pieces.map(({ plan_id, copies }) => ({ plan_id, copies })),
    version,
  };
  return {
    busy: deed.isPending,
    change: (more: Partial<typeof plan>) =>
      deed.mutate(() =>
        need(api.PUT("/api/plates/{number}", { ...of, body: { ...plan, ...more } })),
      ),
    lay: () =>
      deed.mutate(() => need(api.POST("/api/plates/{number}/lay", { ...of, body: { version } }))),
    move: (moved: Lying[]) =>
      deed.mutate(() =>
        need(api.PUT("/api/plates/{number}/laid", { ...of, body: { version, moved } })),
      ),
    tick: (ticked: string[]) =>
      deed.mutate(() =>
        need(api.PUT("/api/plates/{number}/ticks", { ...of, body: { version, ticked } })),
      ),
    turn: (turn: "undo" | "redo") =>
      deed.mutate(() =>
        need(
          api.POST("/api/plates/{number}/{turn}", {
            params: { path: { number: plate.id, turn } },
            body: { version },
          }),
        ),
      ),
    count: () => deed.mutate(() => need(api.POST("/api/plates/{number}/count", of))),
  };
}

export type Deeds = ReturnType<typeof usePlateDeeds>;

/** The machine's own file of one plate; `k` counts from 1. */
export function usePlateFile(plate: Whole, k: number, wanted: boolean) {
  const asked = { params: { path: { number: plate.id, k } } };
  return useComputation<PrintFile>(
    ["compute", "plate", plate.id, plate.version, k],
    {
      look: () => need(api.GET("/api/plates/{number}/{k}/file", asked)),
      start: () => need(api.POST("/api/plates/{number}/{k}/file", asked)),
    },
    wanted,
  );
}
