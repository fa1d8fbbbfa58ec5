const KEY = "tenugui-coin";
export const USUAL = "coins";
const MOST = 12;

const kept = () => (typeof localStorage === "undefined" ? null : localStorage.getItem(KEY));
let called = kept()?.trim() ?? "";

/** What a coin is called: the currency in which materials and rates of the shelf are typed. */
export const coin = () => (called === "" ? USUAL : called);

/** An amount in it. */
export const inCoins = (amount: number) => `${amount.toFixed(2)} ${coin()}`;

/** Call it otherwise from now on, in this browser; as usual where nothing is said. */
export function callCoin(name: string) {
  called = name.trim().slice(0, MOST).trim();
  if (called === "" || called === USUAL) localStorage.removeItem(KEY);
  else localStorage.setItem(KEY, called);
}
