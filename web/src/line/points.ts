import type { Point } from "./api";

/** The address of two plans beside each other. */
export const beside = (one: Point, other: Point): string => {
  const said = new URLSearchParams({ a: String(one.plan), b: String(other.plan) });
  if (one.at) said.set("at_a", String(one.at));
  if (other.at) said.set("at_b", String(other.at));
  return `/compare?${said.toString()}`;
};

const number = (text: string | null) => (text && /^\d+$/.test(text) ? Number(text) : 0);

/** Both, as an address says them; a plan is 0 where it says none. */
export const pointsOf = (said: URLSearchParams): [Point, Point] => [
  { plan: number(said.get("a")), at: number(said.get("at_a")) || null },
  { plan: number(said.get("b")), at: number(said.get("at_b")) || null },
];
