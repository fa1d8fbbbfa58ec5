import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useView } from "../shell/view";
import { api, asProblem, need, type Schemas } from "./client";

export type RunWhole = Schemas["RunWhole"];
export type Pin = Schemas["Pin"];
export type Desk = Schemas["DeskDoc"];
export type SeriesWhole = Schemas["SeriesWhole"];
export type Specimen = Schemas["SpecimenRow"];
export type Spec = Schemas["Spec"];
export type AbilityRow = Schemas["AbilityRow"];
export type MachinePage = Schemas["MachinePage"];

export const useRun = (id: number) =>
  useQuery({
    queryKey: ["run", id],
    queryFn: () => need(api.GET("/api/runs/{number}", { params: { path: { number: id } } })),
    enabled: id > 0,
  });

export const useCues = (process: string | undefined) =>
  useQuery({
    queryKey: ["cues", process],
    queryFn: () =>
      need(api.GET("/api/cues/{process}", { params: { path: { process: process ?? "" } } })),
    enabled: !!process,
    staleTime: Infinity,
  }).data ?? [];

export const useDesk = (run: number, cue: string | null, layer: number | null) =>
  useQuery({
    queryKey: ["run", run, "desk", cue, layer],
    queryFn: () =>
      need(
        api.GET("/api/runs/{number}/desk", {
          params: { path: { number: run }, query: { cue: cue ?? "", layer } },
        }),
      ),
    enabled: !!cue,
  });

export const useSeriesList = () =>
  useQuery({ queryKey: ["series"], queryFn: () => need(api.GET("/api/series")) });

export const useSeries = (id: number) =>
  useQuery({
    queryKey: ["series", id],
    queryFn: () => need(api.GET("/api/series/{number}", { params: { path: { number: id } } })),
    enabled: id > 0,
  });

export const useAble = (printer: number, material: number | null) =>
  useQuery({
    queryKey: ["able", printer, material],
    queryFn: () =>
      need(
        api.GET("/api/printers/{number}/able", {
          params: { path: { number: printer }, query: { material_id: material } },
        }),
      ),
    enabled: printer > 0,
  });

/** A change of something that is remembered; afterwards what begins with `key` is looked at again. */
export function useDeed<V, R>(key: string, deed: (value: V) => Promise<R>, said?: string) {
  const client = useQueryClient();
  const { fail, say } = useView();
  return useMutation({
    mutationFn: deed,
    onSuccess: () => {
      void client.invalidateQueries({ queryKey: [key] });
      if (said) say({ text: said });
    },
    onError: (error) => {
      fail(error);
      void client.invalidateQueries({ queryKey: [key] });
    },
  });
}

/** A body that is no JSON: a photo, a table. */
export async function sendBody(path: string, body: Blob): Promise<unknown> {
  const answer = await fetch(path, { method: "POST", body });
  const read: unknown = await answer.json().catch(() => null);
  if (!answer.ok) throw asProblem(read);
  return read;
}

/** What came of a file that was brought in. */
export const broughtWords = ({ taken, there }: Schemas["Brought"]) =>
  there ? `${taken} taken in; ${there} were here already.` : `${taken} taken in.`;

/** A file of another bench, taken in at a door; afterwards what begins with `key` is looked at again. */
export function useBringIn(key: string, door: string) {
  const { say } = useView();
  return useDeed(key, async (file: File) => {
    const done = (await sendBody(door, file)) as Schemas["Brought"];
    say({ text: broughtWords(done) });
  });
}
