// @vitest-environment happy-dom
import { act, cleanup, render } from "@testing-library/react";
import { BrowserRouter, useLocation } from "react-router";
import { afterEach, expect, test } from "vitest";
import { useAddress } from "../src/shell/address";

afterEach(cleanup);

type Address = ReturnType<typeof useAddress>;

/** The address as it is at each drawing, and what the page then says. */
function drawn(at: string) {
  window.history.replaceState(null, "", at);
  const seen: Address[] = [];
  const Page = () => {
    seen.push(useAddress());
    return <output>{useLocation().search}</output>;
  };
  const page = render(
    <BrowserRouter>
      <Page />
    </BrowserRouter>,
  );
  return { seen, said: () => page.getByRole("status").textContent };
}

test("two changes within one drawing are both kept", () => {
  const { seen, said } = drawn("/plan/1/proof?layer=7");
  act(() => {
    seen[0].put({ played: 12, move: null });
    seen[0].put({ layer: 11 });
  });
  expect(said()).toBe("?layer=11&played=12");
});

test("a change that waited does not take back what was said meanwhile", () => {
  const { seen, said } = drawn("/plan/1/proof?layer=7&move=3");
  const waits = seen[0].put;
  act(() => seen[0].put({ played: 2, move: null }));
  act(() => waits({ layer: 1 }));
  expect(said()).toBe("?layer=1&played=2");
});

test("a number is one, or none", () => {
  const { seen } = drawn("/plan/1/proof?layer=7&played=&option=two");
  expect(["layer", "played", "option", "at"].map(seen[0].number)).toEqual([7, null, null, null]);
});
