// @vitest-environment happy-dom
import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { BrowserRouter, useLocation } from "react-router";
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { PartLinks, PARTS, ProofPart } from "../src/folds/proof/Parts";

const seen: string[] = [];
beforeEach(() => {
  seen.length = 0;
  Element.prototype.scrollIntoView = vi.fn(function (this: Element) {
    seen.push(this.id);
  });
});
afterEach(cleanup);

const Address = () => <output>{useLocation().search}</output>;
const shown = (at: string, ready = true) => {
  window.history.replaceState(null, "", at);
  return render(
    <BrowserRouter>
      <PartLinks ready={ready} />
      {PARTS.map(([name]) => (
        <ProofPart key={name} name={name}>
          {name}
        </ProofPart>
      ))}
      <Address />
    </BrowserRouter>,
  );
};

test("a part is gone to by press, and the address says so", () => {
  shown("/plan/1/proof?layer=7");
  fireEvent.click(screen.getByRole("button", { name: /Off they come/ }));
  expect(seen).toEqual(["part-off"]);
  expect(screen.getByRole("status").textContent).toBe("?layer=7&part=off");
  expect(screen.getByRole("button", { name: /Off they come/ }).getAttribute("aria-current")).toBe(
    "location",
  );
});

test("each part has its key", () => {
  shown("/plan/1/proof");
  for (const [, , key] of PARTS)
    fireEvent.keyDown(document, { key, code: `Key${key.toUpperCase()}` });
  expect(seen).toEqual(PARTS.map(([name]) => `part-${name}`));
});

test("an address begins at its part, once there is something to see", () => {
  const { unmount } = shown("/plan/1/proof?part=layers", false);
  expect(seen).toEqual([]);
  unmount();
  shown("/plan/1/proof?part=layers");
  expect(seen).toEqual(["part-layers"]);
});

test("an address that names no part begins at the top", () => {
  shown("/plan/1/proof?part=%3Cb%3E");
  expect(seen).toEqual([]);
});
