import { useQuery, useQueryClient } from "@tanstack/react-query";
import { api, need, type Schemas } from "../api/client";
import { useDeed } from "../api/memory";

export type Role = Schemas["Me"]["role"];
export type Holder = Schemas["KeyHolder"];
export type Noted = Schemas["Noted"];

/** Whether this bench asks who comes, and who did. */
export const useSession = () =>
  useQuery({
    queryKey: ["session"],
    queryFn: () => need(api.GET("/api/session")),
    staleTime: Infinity,
  });

/** Whether one stands before a door that asks who comes. */
export const useOutside = () => {
  const session = useSession().data;
  return !!session?.open && !session.me;
};

export const usePeople = () =>
  useQuery({ queryKey: ["people"], queryFn: () => need(api.GET("/api/people")) });

/** What was done, from before a row on. */
export const useAudit = (before: number | undefined) =>
  useQuery({
    queryKey: ["audit", before],
    queryFn: () => need(api.GET("/api/audit", { params: { query: { before } } })),
  });

/** Leave: here, or wherever one is signed in. What was seen goes with it. */
export function useLeave() {
  const client = useQueryClient();
  return useDeed("session", async (everywhere: boolean) => {
    await need(everywhere ? api.DELETE("/api/sessions") : api.DELETE("/api/session"));
    client.removeQueries({ predicate: (q) => q.queryKey[0] !== "session" });
  });
}

export const ROLES: readonly { value: Role; text: string; may: string }[] = [
  { value: "keeper", text: "keeper", may: "everything, with people, machines and limits" },
  { value: "member", text: "member", may: "figures, plates and the log; no machines, no people" },
  {
    value: "guest",
    text: "guest at a machine",
    may: "looks, sets timers, says what became of a run",
  },
];

/** An audit row in words: `PUT /api/runs/7/outcome` is `changed runs 7 outcome`. */
export function deedWords(noted: Pick<Noted, "deed" | "status">): string {
  const [method = "", path = ""] = noted.deed.split(" ");
  const where = path.replace(/^\/api\//, "").replaceAll("/", " ");
  const verbs: Record<string, string> = {
    "POST session": "signed in",
    "DELETE session": "signed out",
    "DELETE sessions": "signed out everywhere",
    "POST invitation": "took an invitation up",
    "POST invitation read": "read an invitation",
    "POST invitations": "invited somebody",
    "DELETE people": "showed somebody out",
    "POST people role": "gave a role to somebody",
  };
  const verb: Record<string, string> = {
    POST: "did",
    PUT: "changed",
    PATCH: "changed",
    DELETE: "took away",
  };
  const done =
    verbs[`${method} ${where.replace(/ \d+/g, "")}`] ?? `${verb[method] ?? method} ${where}`;
  return noted.status < 400 ? done : `${done}, refused (${noted.status})`;
}
