import createClient from "openapi-fetch";
import type { components, paths } from "./schema";

export type Schemas = components["schemas"];
export type PlanState = Schemas["PlanState"];
export type FoldState = Schemas["FoldState"];
export type FigureRow = Schemas["FigureRow"];
export type Machine = Schemas["Machine"];
export type Run = Schemas["Run"];
export type JobState = Schemas["JobState"];
export type Numbers = Schemas["Numbers"];
export type StripData = Schemas["StripDoc"];
export type Intake = Schemas["IntakeDoc"];
export type Mend = Schemas["MendDoc"];
export type Way = Mend["way"];
export type Weak = Schemas["WeakDoc"];
export type Proposals = Schemas["ProposalsDoc"];
export type PoseBoard = Schemas["PoseBoard"];
export type PoseRow = Schemas["PoseRow"];
export type PoseMapData = Schemas["PoseMap"];
export type Ranked = Schemas["Ranked"];
export type Weighed = Schemas["Weighed"];
export type Down = [number, number, number];
export type HollowBoard = Schemas["HollowBoard"];
export type HollowRow = Schemas["HollowRow"];
export type Hole = Schemas["HoleDoc"];
export type Judged = Schemas["JudgedDoc"];
export type Liquid = Schemas["LiquidDoc"];
export type WallsBoard = Schemas["WallsBoard"];
export type WallsRow = Schemas["WallsRow"];
export type SupportsBoard = Schemas["SupportsBoard"];
export type SupportsRow = Schemas["SupportsRow"];
export type LayersBoard = Schemas["LayersBoard"];
export type LayerPath = Schemas["LayerPathDoc"];
export type Trial = Schemas["TrialDoc"];
export type Others = Schemas["OthersDoc"];
export type Profile = Schemas["ProfileDoc"];
export type LayersRow = Schemas["LayersRow"];
export type ProofBoard = Schemas["ProofBoard"];
export type PrintFile = Schemas["PrintFileDoc"];
export type Slices = Schemas["SlicesDoc"];
export type Hazard = Schemas["HazardDoc"];
export type Finding = Schemas["Finding"];
export type Place = [number, number, number];

/** A document at hand, the job that will bring it, or why the last one failed. */
export interface Computation<T> {
  key: string;
  document?: T | null;
  draft?: T | null;
  job_id?: number | null;
  problem?: Schemas["Refusal"] | null;
}

/** What went wrong, in the server's words (RFC 9457), or in ours where no server answered. */
export class Problem extends Error {
  constructor(
    readonly code: string,
    what: string,
    readonly remedy: string,
    readonly where = "",
  ) {
    super(what);
  }

  /** Whether the server, or its database, does not answer: the page waits and goes on by itself. */
  get isAway() {
    return this.code.endsWith("-away");
  }

  /** The same, said of something. */
  of(name: string) {
    return new Problem(this.code, `${name}: ${this.message}`, this.remedy, this.where);
  }
}

export const AWAY = new Problem(
  "server-away",
  "Tenugui does not answer.",
  "Start it again; this page goes on by itself when it is back.",
);

/** Whatever was thrown, as a problem. */
export function problemOf(thrown: unknown): Problem {
  if (thrown instanceof Problem) return thrown;
  const what = thrown instanceof Error ? thrown.message : String(thrown);
  return new Problem(
    "page-fault",
    `The page stumbled: ${what}.`,
    "Load it again; nothing of yours is lost.",
  );
}

export function asProblem(body: unknown): Problem {
  if (!body || typeof body !== "object" || !("title" in body) || typeof body.title !== "string")
    return AWAY;
  const text = (name: string) => {
    const held: unknown = (body as Record<string, unknown>)[name];
    return typeof held === "string" ? held : "";
  };
  return new Problem(text("code"), body.title, text("detail"), text("where"));
}

export const refusalOf = (r: Schemas["Refusal"]) => new Problem(r.code, r.what, r.remedy, r.where);

export const api = createClient<paths>({ baseUrl: "/" });

/** The data of an answer, or its problem thrown. */
export async function need<T>(
  answer: Promise<{ data?: T; error?: unknown; response: Response }>,
): Promise<T> {
  let got;
  try {
    got = await answer;
  } catch {
    throw AWAY;
  }
  if (!got.response.ok) throw asProblem(got.error);
  return got.data as T;
}
