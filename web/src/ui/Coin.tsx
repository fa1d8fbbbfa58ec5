import { coin } from "../shell/coin";

/** What a coin is called, where a text is made once. */
export const Coin = () => <>{coin()}</>;
