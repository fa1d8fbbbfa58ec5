import type { SupportsRow } from "../../api/client";

/** What one should know of a set; what is severe stands before the board. */
export function Findings({ of }: { of: SupportsRow["findings"] }) {
  return of.map((f) => (
    <p
      key={f.code}
      className={`mt-2 border-l-4 bg-paper px-3 py-1.5 text-[13.5px] ${f.severity === "severe" ? "border-persimmon" : "border-thread"}`}
    >
      {f.message}
    </p>
  ));
}

interface Word {
  many: number;
  value: boolean;
  onValue: (may: boolean) => void;
}

/** A person's word that tips may stand on what they marked to fit or to be kept free. */
export function MayBreak({ many, value, onValue }: Word) {
  return (
    <label className="flex items-center gap-2 text-[13px]">
      <input type="checkbox" checked={value} onChange={(e) => onValue(e.target.checked)} />
      {many === 1 ? "One tip may stand on your marks" : `${many} tips may stand on your marks`}
    </label>
  );
}
