import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { useView } from "../shell/view";
import { refusalOf } from "./client";
import { useJob } from "./queries";

/** Follows a job that changes what is kept: then all is looked at again, and its failure is said. */
export function useDeedJob(id: number | null, then: () => void) {
  const client = useQueryClient();
  const { fail } = useView();
  const after = useRef(then);
  useEffect(() => {
    after.current = then;
  });
  const running = useJob(id, () => undefined);
  const state = running?.state;
  const problem = running?.problem;
  useEffect(() => {
    if (state !== "done" && state !== "failed" && state !== "cancelled") return;
    void client.invalidateQueries();
    if (problem) fail(refusalOf(problem));
    if (state === "done") after.current();
  }, [state, problem, client, fail]);
  return { running, busy: id != null && state !== "failed" && state !== "cancelled" };
}
