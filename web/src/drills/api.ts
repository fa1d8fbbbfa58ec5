import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, need, type Schemas } from "../api/client";
import { useJob } from "../api/queries";
import { useView } from "../shell/view";

export type Drill = Schemas["DrillShown"];
export type Graded = Schemas["DrillGraded"];
export type Skill = Schemas["SkillRow"];
export type State = Schemas["DrillsState"];

export const useDrills = (enabled = true) =>
  useQuery({ queryKey: ["drills"], queryFn: () => need(api.GET("/api/drills")), enabled });

/** A round: five questions, asked for again when it is done. */
export function useRound() {
  const { fail } = useView();
  return useMutation({ mutationFn: () => need(api.POST("/api/drills/round")), onError: fail });
}

export function useAnswer(drill: Drill) {
  const client = useQueryClient();
  const { fail } = useView();
  return useMutation({
    mutationFn: (said: Schemas["DrillAnswer"]) =>
      need(
        api.POST("/api/drills/{number}/answer", {
          params: { path: { number: drill.id } },
          body: said,
        }),
      ),
    onSuccess: () => void client.invalidateQueries({ queryKey: ["drills"] }),
    onError: fail,
  });
}

/** Has drills made of a plan, and waits for the job that makes them. */
export function useMaking() {
  const client = useQueryClient();
  const { fail } = useView();
  const [plan, setPlan] = useState<number | null>(null);
  const [job, setJob] = useState<number | null>(null);
  const make = useMutation({
    mutationFn: (number: number) =>
      need(api.POST("/api/drills/figures/{number}", { params: { path: { number } } })),
    onSuccess: (made) => {
      setJob(made.job_id);
      if (made.job_id == null) {
        setPlan(null);
        void client.invalidateQueries({ queryKey: ["drills"] });
      }
    },
    onError: (error) => {
      setPlan(null);
      fail(error);
    },
  });
  const { mutate } = make;
  const running = useJob(job, () => plan != null && mutate(plan));
  const stopped = running?.state === "failed" || running?.state === "cancelled";
  return {
    plan: stopped ? null : plan,
    doing: running?.doing ?? "waiting for a free worker",
    start: (number: number) => {
      setPlan(number);
      mutate(number);
    },
  };
}
