/** What a browser has and the tests' lacks, and words that say what is wrong with an element. */
import { expect, vi } from "vitest";

/** Addresses of the bench's own, as a browser would complete them. */
class Asked extends Request {
  constructor(input: RequestInfo | URL, init?: RequestInit) {
    super(typeof input === "string" ? new URL(input, "http://bench") : input, init);
  }
}
vi.stubGlobal("Request", Asked);

/** Nobody answers until a test says who does; the client keeps the first `fetch` that it sees. */
export const bench: { answer: (asked: Request) => Promise<Response> } = {
  answer: () => Promise.reject(new Error("nobody")),
};
vi.stubGlobal("fetch", (input: RequestInfo | URL, init?: RequestInit) =>
  bench.answer(input instanceof Request ? input : new Asked(input, init)),
);

vi.stubGlobal("matchMedia", () => ({ matches: false, addEventListener: () => undefined }));

expect.extend({
  toBeChecked: (e: Element) => ({
    pass: e.getAttribute("aria-checked") === "true",
    message: () => `expected ${e.outerHTML} to be checked`,
  }),
  toHaveFocus: (e: Element) => ({
    pass: document.activeElement === e,
    message: () =>
      `expected ${e.outerHTML}, not ${document.activeElement?.outerHTML}, to have the focus`,
  }),
  toHaveAttribute: (e: Element, name: string, value: string) => ({
    pass: e.getAttribute(name) === value,
    message: () => `expected ${name} of ${e.outerHTML} to be ${value}`,
  }),
});

declare module "vitest" {
  interface Assertion {
    toBeChecked: () => void;
    toHaveFocus: () => void;
    toHaveAttribute: (name: string, value: string) => void;
  }
}
