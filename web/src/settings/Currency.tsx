import { useState } from "react";
import { callCoin, coin } from "../shell/coin";
import { useView } from "../shell/view";

/** What a coin is called on this page: whatever materials and rates are typed in. */
export function Currency() {
  const { say } = useView();
  const [typed, setTyped] = useState(coin);
  return (
    <form
      aria-label="Currency"
      className="mt-8 max-w-3xl"
      onSubmit={(e) => {
        e.preventDefault();
        callCoin(typed);
        setTyped(coin());
        say({ text: `Costs are told in ${coin()} from now on, in this browser.` });
      }}
    >
      <h2 className="text-[20px]">Costs are told in</h2>
      <div className="mt-1 flex items-center gap-3">
        <input
          className="field w-28"
          maxLength={12}
          aria-label="What a coin is called"
          value={typed}
          onChange={(e) => setTyped(e.target.value)}
        />
        <button className="quiet">Call it so</button>
      </div>
      <p className="mt-1 text-[13px] text-faded">
        Nothing is converted: it is the currency in which you type what a material costs and what an
        hour is worth to you.
      </p>
    </form>
  );
}
