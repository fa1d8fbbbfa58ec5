import createClient from "openapi-fetch";
import type { components, paths } from "./schema";

export type Schemas = components["schemas"];
export type PlanState = Schemas["PlanState"];
export type FoldState = Schemas["FoldState"];
export type FigureRow = Schemas["FigureRow"];
export type Machine = Schemas["Machine"];
export type Run = Schemas["Run"];
export type JobState = Schemas["JobState"];
export type Computation = Schemas["Computation"];

/** What went wrong, in the server's words (RFC 9457), or in ours where no server answered. */
export class Problem extends Error {
  constructor(readonly code: string, what: string, readonly remedy: string, readonly where = "") {
    super(what);
  }
}

export const AWAY = new Problem("server-away", "Tenugui does not answer.", "Start it again; this page goes on by itself when it is back.");

export function asProblem(body: unknown): Problem {
  const b = body as { code?: string; title?: string; detail?: string; where?: string } | undefined;
  return b?.title ? new Problem(b.code ?? "", b.title, typeof b.detail === "string" ? b.detail : "", b.where) : AWAY;
}

export const api = createClient<paths>({ baseUrl: "/" });

/** The data of an answer, or its problem thrown. */
export async function need<T>(answer: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T> {
  let got;
  try {
    got = await answer;
  } catch {
    throw AWAY;
  }
  if (!got.response.ok) throw asProblem(got.error);
  return got.data as T;
}
