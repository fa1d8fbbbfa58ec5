import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, need, type Schemas } from "../api/client";
import { useView } from "../shell/view";

export type Night = Schemas["NightState"];
export type Row = Schemas["NightFigureRow"];
export type Way = Schemas["NightWay"];
export type Limits = Schemas["NightLimits"];

const path = (number: number) => ({ params: { path: { number } } });

export const useNights = () =>
  useQuery({ queryKey: ["nights"], queryFn: () => need(api.GET("/api/nights")) });

/** A night; asked again while something of it is under way. */
export const useNight = (id: number) =>
  useQuery({
    queryKey: ["night", id],
    queryFn: () => need(api.GET("/api/nights/{number}", path(id))),
    enabled: id > 0,
    refetchInterval: (q) =>
      q.state.data?.rows.some((r) => r.state === "running" || r.state === "waiting") ? 2000 : false,
  });

/** What can be done to a night: each deed ends with the night as it then stands. */
export function useNightDeeds(id: number) {
  const client = useQueryClient();
  const { fail } = useView();
  const deed = useMutation({
    mutationFn: (act: () => Promise<Night>) => act(),
    onSuccess: (now) => client.setQueryData(["night", id], now),
    onError: fail,
  });
  return {
    busy: deed.isPending,
    stop: () => deed.mutate(() => need(api.POST("/api/nights/{number}/stop", path(id)))),
    goOn: () => deed.mutate(() => need(api.POST("/api/nights/{number}/go-on", path(id)))),
    limit: (body: Limits) =>
      deed.mutate(() => need(api.PUT("/api/nights/{number}/limits", { ...path(id), body }))),
  };
}
