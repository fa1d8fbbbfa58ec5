import { useEffect } from "react";
import text from "../../../docs/craft.md?raw";
import { Crumbs } from "../shell/Header";
import { Drawing } from "./drawings";
import { pagesOf, starred, type Block } from "./read";

const { before, pages } = pagesOf(text);

function Sentence({ of }: { of: string }) {
  return starred(of).map(({ text: piece, strong }, k) =>
    strong ? (
      <b key={k} className="font-medium">
        {piece}
      </b>
    ) : (
      piece
    ),
  );
}

function Shown({ block }: { block: Block }) {
  switch (block.kind) {
    case "drawing":
      return <Drawing name={block.name} text={block.text} />;
    case "caution":
      return (
        <p role="note" className="my-2 border-l-4 border-persimmon bg-paper px-3 py-1.5">
          <Sentence of={block.text} />
        </p>
      );
    case "list":
      return (
        <ul className="my-2 list-disc space-y-1 pl-5">
          {block.rows.map((row) => (
            <li key={row}>
              <Sentence of={row} />
            </li>
          ))}
        </ul>
      );
    case "schools": {
      const [head, ...rows] = block.rows;
      return (
        <table className="board my-2" aria-label="Schools">
          <thead>
            <tr>
              {head.map((cell, k) => (
                <th key={k} className="board-left">
                  {cell}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {rows.map((row) => (
              <tr key={row[0]}>
                {row.map((cell, k) => (
                  <td key={k} className="board-left">
                    {cell}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      );
    }
    case "text":
      return (
        <p className="my-2">
          <Sentence of={block.text} />
        </p>
      );
  }
}

/** The craft in ten pages, to be read or printed: one page of paper each. */
export function CraftPage() {
  useEffect(() => {
    document.title = "The craft · Tenugui";
  }, []);
  return (
    <main className="min-h-0 flex-1 overflow-y-auto px-8 py-5 max-[1100px]:px-5">
      <Crumbs trail={[{ text: "The craft" }]} />
      <div className="flex flex-wrap items-baseline gap-4">
        <h1 className="text-[27px] leading-tight">The craft in ten pages</h1>
        <button type="button" className="quiet no-print" onClick={() => window.print()}>
          Print them
        </button>
      </div>
      <p className="max-w-[80ch] text-faded">{before}</p>
      <nav aria-label="Pages" className="my-3 flex flex-wrap gap-x-4 gap-y-1">
        {pages.map((page, k) => (
          <a key={page.title} href={`#page-${k + 1}`} className="text-indigo underline">
            {page.title}
          </a>
        ))}
      </nav>
      {pages.map((page, k) => (
        <section
          key={page.title}
          id={`page-${k + 1}`}
          aria-label={page.title}
          className="craft-page"
        >
          <h2 className="text-[20px]">{page.title}</h2>
          <div className="flow-root max-w-[1130px]">
            {page.blocks.map((block, b) => (
              <Shown key={b} block={block} />
            ))}
          </div>
        </section>
      ))}
    </main>
  );
}
