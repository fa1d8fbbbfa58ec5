import { useEffect, useState } from "react";
import { Crumbs } from "../shell/Header";
import { GLOSSARY } from "./glossary";

/** All words of the craft that the pages use. */
export function WordsPage() {
  const [wanted, setWanted] = useState("");
  useEffect(() => {
    document.title = "Words · Tenugui";
  }, []);
  const found = GLOSSARY.filter((e) =>
    `${e.forms.join(" ")} ${e.sense}`.toLowerCase().includes(wanted.trim().toLowerCase()),
  );
  return (
    <main className="min-h-0 flex-1 overflow-y-auto px-8 py-5 max-[1100px]:px-5">
      <Crumbs trail={[{ text: "Words" }]} />
      <h1 className="text-[27px] leading-tight">What is meant by it?</h1>
      <p className="mb-3 max-w-[90ch] text-faded">
        Where one of these stands underlined with dots, its sense is shown there too.
      </p>
      <input
        className="field mb-3 w-80"
        aria-label="Look for a word"
        placeholder="a word"
        value={wanted}
        onChange={(e) => setWanted(e.target.value)}
      />
      <dl className="max-w-[90ch]">
        {found.map((e) => (
          <div key={e.word} className="border-b border-thread py-2">
            <dt className="font-display text-[16px] text-indigo">{e.word}</dt>
            <dd>{e.sense}</dd>
          </div>
        ))}
      </dl>
      {found.length === 0 && <p className="text-faded">No word is like that.</p>}
    </main>
  );
}
