/** What the tests of the page share: a browser's leftovers that happy-dom lacks, and a page around what is tested. */
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { cleanup, configure, render } from "@testing-library/react";
import type { ReactNode } from "react";
import { BrowserRouter, Route, Routes } from "react-router";
import { afterEach, vi } from "vitest";
import { bench } from "./setup";
import type { FoldState, Numbers, PlanState, Run } from "../src/api/client";

// What comes later may come much later on a machine that compiles beside the tests.
configure({ asyncUtilTimeout: 30_000 });

class Watcher {
  observe = () => undefined;
  unobserve = () => undefined;
  disconnect = () => undefined;
}
vi.stubGlobal("ResizeObserver", Watcher);
Element.prototype.scrollIntoView = () => undefined;
Element.prototype.hasPointerCapture = () => false;
Element.prototype.setPointerCapture = () => undefined;
Element.prototype.releasePointerCapture = () => undefined;

afterEach(() => {
  cleanup();
  localStorage.clear();
});

export interface Asked {
  method: string;
  path: string;
  body: unknown;
}

/** Answers requests from a table of `METHOD path`, and remembers what was asked. */
export function served(table: Record<string, unknown>): Asked[] {
  const asked: Asked[] = [];
  bench.answer = async (request) => {
    const path = new URL(request.url).pathname;
    const text = request.method === "GET" ? "" : await request.text();
    asked.push({ method: request.method, path, body: text ? JSON.parse(text) : null });
    const held = table[`${request.method} ${path}`];
    if (held === undefined) return new Response(null, { status: 204 });
    if (held instanceof Response) return held.clone();
    return new Response(JSON.stringify(held), { headers: { "content-type": "application/json" } });
  };
  return asked;
}

export const refusal = (status: number, code: string, title: string, detail = "") =>
  new Response(JSON.stringify({ code, title, detail, where: "" }), {
    status,
    headers: { "content-type": "application/problem+json" },
  });

/** Draw something as a page of a plan would. */
export function shown(what: ReactNode, at = "/plan/7/size") {
  window.history.replaceState(null, "", at);
  const client = new QueryClient({ defaultOptions: { queries: { retry: false } } });
  const around = (child: ReactNode) => (
    <QueryClientProvider client={client}>
      <BrowserRouter>
        <Routes>
          <Route path="/plan/:plan/:fold" element={child} />
          <Route path="/plate/:plate" element={child} />
          <Route path="/night/:night" element={child} />
          <Route path="*" element={child} />
        </Routes>
      </BrowserRouter>
    </QueryClientProvider>
  );
  const drawn = render(around(what));
  return { ...drawn, again: (next: ReactNode) => drawn.rerender(around(next)) };
}

export const numbers = (change: Partial<Numbers> = {}): Numbers => ({
  finish_mm: 0.043,
  risk: 0.12,
  unheld: false,
  film_share: 0.02,
  time_s: 4 * 3600,
  cost: 1.25,
  volume_ml: 30,
  mass_g: 34,
  ...change,
});

export const fold = (name: string, change: Partial<FoldState> = {}): FoldState =>
  ({
    name,
    title: name[0].toUpperCase() + name.slice(1),
    state: "open",
    choice: null,
    key: "k",
    ...change,
  }) as FoldState;

export const plan = (change: Partial<PlanState> = {}): PlanState =>
  ({
    id: 7,
    figure_id: 3,
    head: 11,
    numbers: null,
    before: null,
    folds: ["size", "marks", "pose", "supports", "layers", "proof"].map((n) => fold(n)),
    ...change,
  }) as PlanState;

export const run = (change: Partial<Run> = {}): Run =>
  ({
    id: 5,
    planned_s: 7200,
    planned_g: 30,
    planned_risk: 0.1,
    real_s: null,
    real_g: null,
    result: null,
    failed_layer: null,
    removal: null,
    note: null,
    ...change,
  }) as Run;
