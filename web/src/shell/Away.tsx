import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { api, need, problemOf } from "../api/client";

const OFTEN_MS = 1500;
const SELDOM_MS = 8000;

/** Says so when the server or its database does not answer, and refreshes everything when it is back. */
export function Away() {
  const client = useQueryClient();
  const ask = useQuery({
    queryKey: ["health"],
    queryFn: () => need(api.GET("/api/health")),
    retry: false,
    refetchInterval: (q) => (q.state.status === "error" ? OFTEN_MS : SELDOM_MS),
  });
  const was = useRef(false);
  useEffect(() => {
    if (ask.isError) was.current = true;
    else if (ask.isSuccess && was.current) {
      was.current = false;
      void client.invalidateQueries();
    }
  }, [ask.isError, ask.isSuccess, client]);
  if (!ask.isError) return null;
  const problem = problemOf(ask.error);
  return (
    <div
      role="alert"
      className="border-b border-thread bg-persimmon px-8 py-1.5 text-[13.5px] text-white"
    >
      {problem.message} {problem.remedy}
    </div>
  );
}
