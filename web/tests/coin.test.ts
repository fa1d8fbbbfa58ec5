// @vitest-environment happy-dom
import { afterEach, describe, expect, it } from "vitest";
import { callCoin, coin, inCoins } from "../src/shell/coin";

describe("a currency of one's own", () => {
  afterEach(() => callCoin(""));
  it("is told wherever an amount is, and kept in the browser", () => {
    expect(inCoins(3)).toBe("3.00 coins");
    callCoin("  crowns ");
    expect([coin(), inCoins(2.5), localStorage.getItem("tenugui-coin")]).toEqual([
      "crowns",
      "2.50 crowns",
      "crowns",
    ]);
  });
  it("is as usual again where nothing is said, and never long", () => {
    callCoin("a very long name of a currency");
    expect(coin()).toBe("a very long");
    callCoin("");
    expect([coin(), localStorage.getItem("tenugui-coin")]).toEqual(["coins", null]);
  });
});
