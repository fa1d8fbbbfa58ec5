import {
  MutationCache,
  QueryCache,
  QueryClient,
  useMutation,
  useQuery,
  useQueryClient,
} from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import type { components } from "./schema";
import {
  api,
  need,
  problemOf,
  refusalOf,
  type Computation,
  type JobState,
  type PlanState,
  type Problem,
} from "./client";

const MOST_TRIES = 600;
const patient = (tries: number, error: Error) => problemOf(error).isAway && tries < MOST_TRIES;

/** A session that has ended shows the way in again. */
const ended = (error: Error) => {
  if (problemOf(error).code === "sign-in")
    void queries.invalidateQueries({ queryKey: ["session"] });
};

export const queries = new QueryClient({
  queryCache: new QueryCache({ onError: ended }),
  mutationCache: new MutationCache({ onError: ended }),
  defaultOptions: {
    queries: { retry: patient, retryDelay: 1500, staleTime: 10_000, refetchOnWindowFocus: false },
  },
});

export const useFolds = () =>
  useQuery({ queryKey: ["folds"], queryFn: () => need(api.GET("/api/folds")), staleTime: Infinity })
    .data ?? [];

/** What runs and waits; asked often while something does. */
export const useJobs = () =>
  useQuery({
    queryKey: ["jobs"],
    queryFn: () => need(api.GET("/api/jobs")),
    refetchInterval: (q) => (q.state.data?.length ? 1000 : 4000),
  });

export const useFigures = (busy = false) =>
  useQuery({
    queryKey: ["figures"],
    queryFn: () => need(api.GET("/api/figures")),
    refetchInterval: busy ? 2500 : false,
  });

export const usePlan = (id: number) =>
  useQuery({
    queryKey: ["plan", id],
    queryFn: () => need(api.GET("/api/plans/{number}", { params: { path: { number: id } } })),
    enabled: id > 0,
  });

export const useKit = (id: number | null | undefined) =>
  useQuery({
    queryKey: ["kit", id],
    queryFn: () => need(api.GET("/api/kits/{number}", { params: { path: { number: id ?? 0 } } })),
    enabled: id != null,
    refetchInterval: (q) => (q.state.data?.parts.some((p) => !p.preview_sha) ? 1500 : false),
  });

/** What the ledger can name, by its code. */
export const useHazardKinds = () =>
  useQuery({
    queryKey: ["hazards"],
    queryFn: () => need(api.GET("/api/hazards")),
    staleTime: Infinity,
    select: byCode,
  }).data ?? NONE;
type HazardKind = components["schemas"]["HazardKind"];
const NONE: Record<string, HazardKind | undefined> = {};
const byCode = (kinds: HazardKind[]): typeof NONE =>
  Object.fromEntries(kinds.map((kind) => [kind.code, kind]));

export const usePrinters = () =>
  useQuery({ queryKey: ["printers"], queryFn: () => need(api.GET("/api/printers")) });

export const useMaterials = () =>
  useQuery({ queryKey: ["materials"], queryFn: () => need(api.GET("/api/materials")) });

/** What a volume takes on a machine in a material. */
export const useStuff = (on: { printer_id: number; material_id: number }, mm3: number) =>
  useQuery({
    queryKey: ["stuff", on, mm3],
    queryFn: () => need(api.GET("/api/stuff", { params: { query: { ...on, mm3 } } })),
    staleTime: Infinity,
  }).data;

export const useLog = () =>
  useQuery({ queryKey: ["runs"], queryFn: () => need(api.GET("/api/runs")) });

export const usePlanRuns = (id: number) =>
  useQuery({
    queryKey: ["runs", id],
    queryFn: () => need(api.GET("/api/plans/{number}/runs", { params: { path: { number: id } } })),
  });

export const useCautions = (process: string | null | undefined) =>
  useQuery({
    queryKey: ["cautions", process],
    queryFn: () =>
      need(
        api.GET("/api/cautions/{process}", { params: { path: { process: process ?? "resin" } } }),
      ),
    enabled: !!process,
    staleTime: Infinity,
  });

/** Follows a job by server-sent events until it ends. */
export function useJob(id: number | null | undefined, ended: () => void): JobState | null {
  const [job, setJob] = useState<JobState | null>(null);
  const done = useRef(ended);
  useEffect(() => {
    done.current = ended;
  });
  useEffect(() => {
    if (!id) return;
    const source = new EventSource(`/api/jobs/${id}/events`);
    source.addEventListener("job", (event: MessageEvent<string>) => {
      const state = JSON.parse(event.data) as JobState;
      setJob(state);
      if (["done", "failed", "cancelled"].includes(state.state)) {
        source.close();
        done.current();
      }
    });
    return () => {
      source.close();
      setJob(null);
    };
  }, [id]);
  return id ? job : null;
}

export interface Computed<T> {
  key: string | null;
  document: T | null;
  /** What is known so far, or the last document, which is stale while another is on its way. */
  old: T | null;
  /** Whether what is old is a draft of what is on its way: all of it is true, and more will come. */
  draft: boolean;
  job: JobState | null;
  problem: Problem | null;
  waiting: boolean;
  cancel: () => void;
  again: () => void;
}

interface Ask<T> {
  look: () => Promise<Computation<T>>;
  start: () => Promise<Computation<T>>;
}

/**
 * A computation's document, started where nobody has asked for it yet. One that failed is shown,
 * and started again only when the person says so.
 */
export function useComputation<T>(
  name: readonly unknown[],
  ask: Ask<T>,
  enabled = true,
): Computed<T> {
  const client = useQueryClient();
  const query = useQuery({
    queryKey: name,
    queryFn: async () => {
      const held = await ask.look();
      return held.document || held.job_id || held.problem ? held : ask.start();
    },
    enabled,
    staleTime: 0,
    retry: patient,
  });
  const document = query.data?.document ?? null;
  const [old, setOld] = useState<T | null>(document);
  if (document && document !== old) setOld(document);
  const draft = document ? null : (query.data?.draft ?? null);
  const refetch = () => void query.refetch();
  const job = useJob(document ? null : query.data?.job_id, refetch);
  // Whoever computes it says when it goes on to something else: there may be more to look at.
  const doing = document ? null : (job?.doing ?? null);
  const { refetch: look } = query;
  useEffect(() => {
    if (doing) void look();
  }, [doing, look]);
  const start = useMutation({
    mutationFn: ask.start,
    onSuccess: (held) => client.setQueryData(name, held),
  });
  const failed = query.data?.problem ? refusalOf(query.data.problem) : null;
  const broken = query.error ?? start.error;
  const problem = broken ? problemOf(broken) : failed;
  return {
    key: query.data?.key ?? null,
    document,
    old: draft ?? old,
    draft: !!draft,
    job,
    problem,
    waiting: enabled && !document && !problem,
    cancel: () =>
      job && void api.DELETE("/api/jobs/{number}", { params: { path: { number: job.id } } }),
    again: () => start.mutate(),
  };
}

/**
 * A change of a plan: keeps the answer as the plan's new state. Where another has changed it
 * meanwhile, the page looks again.
 */
export function usePlanChange<V>(id: number, change: (value: V) => Promise<PlanState>) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: change,
    onSuccess: (state) => {
      client.setQueryData(["plan", id], state);
      void client.invalidateQueries({ queryKey: ["figures"] });
    },
    onError: (error) => {
      if (problemOf(error).code === "changed-meanwhile")
        void client.invalidateQueries({ queryKey: ["plan", id] });
    },
  });
}

const seen = (plan: PlanState) => ({
  params: { path: { number: plan.id } },
  body: { head: plan.head },
});
export const undo = (plan: PlanState) => need(api.POST("/api/plans/{number}/undo", seen(plan)));
export const redo = (plan: PlanState) => need(api.POST("/api/plans/{number}/redo", seen(plan)));

/** Plans on simulated machines; asked often while one prints. */
export const useMachines = (wanted: boolean) =>
  useQuery({
    queryKey: ["machines"],
    queryFn: () => need(api.GET("/api/machines")),
    enabled: wanted,
    refetchInterval: (q) => (q.state.data?.some((m) => m.state && !m.state.seen) ? 2000 : false),
  });
