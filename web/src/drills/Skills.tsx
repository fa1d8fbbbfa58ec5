import type { Skill } from "./api";

/** How somebody stands in every skill: a mark, and how far it may be off. */
export function Skills({ rows }: { rows: Skill[] }) {
  return (
    <table aria-label="Skills" className="w-full max-w-[600px] text-[13.5px]">
      <thead className="text-left text-faded">
        <tr>
          <th className="font-normal">skill</th>
          <th className="w-60 font-normal">right how often, 95 %</th>
          <th className="w-16 text-right font-normal">answers</th>
        </tr>
      </thead>
      <tbody>
        {rows.map((row) => (
          <tr key={row.skill} className="border-t border-thread">
            <td className="py-1.5 pr-3">{row.skill}</td>
            <td>
              {row.answers ? <Span row={row} /> : <span className="text-faded">not yet</span>}
            </td>
            <td className="text-right">{row.answers}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Span({ row }: { row: Skill }) {
  const [low, mean, high] = [row.low, row.share, row.high].map((v) => Math.round(v * 100));
  return (
    <span className="flex items-center gap-2 whitespace-nowrap">
      <svg
        viewBox="0 0 100 12"
        className="h-3 w-24 shrink-0"
        aria-hidden
        preserveAspectRatio="none"
      >
        <line x1="0" y1="6" x2="100" y2="6" stroke="var(--thread)" />
        <line
          x1={low}
          y1="6"
          x2={high}
          y2="6"
          stroke="var(--indigo)"
          strokeWidth="4"
          opacity="0.45"
        />
        <line x1={mean} y1="0" x2={mean} y2="12" stroke="var(--indigo)" strokeWidth="2" />
      </svg>
      {mean} %<span className="text-faded">{` ${low} to ${high}`}</span>
    </span>
  );
}
