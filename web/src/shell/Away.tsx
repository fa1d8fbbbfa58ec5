import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { useQueryClient } from "@tanstack/react-query";
import { api, need, type Problem } from "../api/client";

/** Says so when the server or its database does not answer, and refreshes everything when it is back. */
export function Away() {
  const client = useQueryClient();
  const ask = useQuery({ queryKey: ["health"], queryFn: () => need(api.GET("/api/health")), retry: false, refetchInterval: (q) => (q.state.status === "error" ? 1500 : 8000) });
  const was = useRef(false);
  useEffect(() => {
    if (ask.isError) was.current = true;
    else if (ask.isSuccess && was.current) {
      was.current = false;
      void client.invalidateQueries();
    }
  }, [ask.isError, ask.isSuccess, client]);
  if (!ask.isError) return null;
  const problem = ask.error as unknown as Problem;
  return <div role="alert" className="border-b border-thread bg-persimmon px-8 py-1.5 text-[13.5px] text-white">{problem.message} {problem.remedy}</div>;
}
