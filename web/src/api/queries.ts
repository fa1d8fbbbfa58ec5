import { QueryClient, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { AWAY, api, asProblem, need, Problem, type Computation, type JobState, type PlanState } from "./client";

export const queries = new QueryClient({
  defaultOptions: { queries: { retry: (n, error) => (error as Problem).code?.endsWith("-away") && n < 600, retryDelay: 1500, staleTime: 10_000, refetchOnWindowFocus: false } },
});

export const useFigures = () => useQuery({ queryKey: ["figures"], queryFn: () => need(api.GET("/api/figures")), refetchInterval: (q) => (q.state.data?.some((f) => !f.picture) ? 1500 : false) });
export const usePlan = (id: number) => useQuery({ queryKey: ["plan", id], queryFn: () => need(api.GET("/api/plans/{number}", { params: { path: { number: id } } })), enabled: id > 0 });
export const usePrinters = () => useQuery({ queryKey: ["printers"], queryFn: () => need(api.GET("/api/printers")) });
export const useMaterials = () => useQuery({ queryKey: ["materials"], queryFn: () => need(api.GET("/api/materials")) });
export const useLog = () => useQuery({ queryKey: ["runs"], queryFn: () => need(api.GET("/api/runs")) });
export const usePlanRuns = (id: number) => useQuery({ queryKey: ["runs", id], queryFn: () => need(api.GET("/api/plans/{number}/runs", { params: { path: { number: id } } })) });
export const useCautions = (process: string | undefined) =>
  useQuery({ queryKey: ["cautions", process], queryFn: () => need(api.GET("/api/cautions/{process}", { params: { path: { process: process! } } })), enabled: !!process, staleTime: Infinity });

/** Follows a job by server-sent events until it ends. */
export function useJob(id: number | null | undefined, ended: () => void): JobState | null {
  const [job, setJob] = useState<JobState | null>(null);
  useEffect(() => {
    setJob(null);
    if (!id) return;
    const source = new EventSource(`/api/jobs/${id}/events`);
    source.addEventListener("job", (event) => {
      const state = JSON.parse((event as MessageEvent).data) as JobState;
      setJob(state);
      if (["done", "failed", "cancelled"].includes(state.state)) {
        source.close();
        if (state.state === "done") ended();
      }
    });
    return () => source.close();
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [id]);
  return job;
}

export interface Computed<T> { document: T | null; old: T | null; job: JobState | null; problem: Problem | null; waiting: boolean; cancel: () => void; again: () => void }

/** A computation's document; while it is on its way, its job and the last document, which is then stale. */
export function useComputation<T>(key: unknown[], ask: () => Promise<Computation>, enabled = true): Computed<T> {
  const query = useQuery({ queryKey: key, queryFn: ask, enabled, staleTime: 0, retry: (n, error) => (error as Problem).code?.endsWith("-away") && n < 600 });
  const document = (query.data?.document ?? null) as T | null;
  const [old, setOld] = useState<T | null>(null);
  useEffect(() => {
    if (document) setOld(document);
  }, [document]);
  const job = useJob(document ? null : query.data?.job_id, () => void query.refetch());
  const failed = job?.state === "failed" && job.problem ? new Problem(String(job.problem.code), String(job.problem.what), String(job.problem.remedy), String(job.problem.where)) : null;
  const cancelled = job?.state === "cancelled" ? new Problem("cancelled", "The computation was cancelled.", "Start it again when you want it.") : null;
  return {
    document, old, job, problem: (query.error as Problem | null) ?? failed ?? cancelled, waiting: !document && !query.error && !failed && !cancelled,
    cancel: () => job && void api.DELETE("/api/jobs/{number}", { params: { path: { number: job.id } } }), again: () => void query.refetch(),
  };
}

/** A fold's board; `wishes` (JSON) are a pose's priorities and pinned directions. What a fold does not depend on does not ask for it anew. */
export const useFold = <T,>(plan: PlanState, fold: "pose" | "supports" | "layers" | "proof", enabled: boolean, wishes?: string) => {
  const before = plan.folds.slice(0, plan.folds.findIndex((f) => f.name === fold)).map((f) => f.choice);
  return useComputation<T>(["compute", plan.id, fold, JSON.stringify(before), wishes], () => need(api.GET("/api/plans/{number}/compute/{fold}", { params: { path: { number: plan.id, fold }, query: { wishes } } })), enabled);
};

/** A change of a plan: keeps the answer as the plan's new state. */
export function usePlanChange<V>(id: number, change: (value: V) => Promise<PlanState>) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: change,
    onSuccess: (state) => {
      client.setQueryData(["plan", id], state);
      void client.invalidateQueries({ queryKey: ["figures"] });
    },
  });
}

export const undo = (id: number) => need(api.POST("/api/plans/{number}/undo", { params: { path: { number: id } } }));
export const redo = (id: number) => need(api.POST("/api/plans/{number}/redo", { params: { path: { number: id } } }));

/** Send a file with progress; resolves with the new plan. */
export async function sendFile(file: File, progress: (share: number) => void, signal: AbortSignal, thin = false): Promise<{ figure_id: number; plan_id: number; kit_id?: number | null; parts: number }> {
  // The first kilobyte goes ahead: two gigabytes of zeros are refused before they travel.
  const judged = await fetch(`/api/figures/judge?size=${file.size}&thin=${thin}`, { method: "POST", body: await file.slice(0, 1024).arrayBuffer() }).catch(() => null);
  if (!judged) throw AWAY;
  if (!judged.ok) throw asProblem(await judged.json().catch(() => undefined));
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest();
    request.open("POST", `/api/figures?name=${encodeURIComponent(file.name)}&thin=${thin}`);
    request.upload.onprogress = (e) => e.lengthComputable && progress(e.loaded / e.total);
    request.onload = () => {
      let body;
      try {
        body = JSON.parse(request.responseText);
      } catch {
        body = null;
      }
      if (request.status === 200) resolve(body);
      else reject(body?.title ? new Problem(body.code, body.title, body.detail, body.where) : AWAY);
    };
    request.onerror = () => reject(AWAY);
    request.onabort = () => reject(new Problem("cancelled", "The upload was cancelled.", "Nothing was kept."));
    signal.addEventListener("abort", () => request.abort());
    request.send(file);
  });
}
