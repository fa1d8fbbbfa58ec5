import { coin } from "../shell/coin";
import { useState } from "react";
import type { Spec } from "../api/memory";
import { told, type Level } from "./read";

/** Levels as they are typed, a comma between: numbers where all are. */
export function levelsOf(text: string): Level[] | null {
  const parts = text
    .split(/[;,]\s*|\s+/)
    .map((p) => p.trim())
    .filter(Boolean);
  if (parts.length < 2 || new Set(parts).size < parts.length) return null;
  const numbers = parts.map(Number);
  return numbers.every((v) => Number.isFinite(v)) ? numbers : parts;
}

/** Factors with their levels, how many of each, and what an hour costs. */
export function SpecEditor({ spec, onSpec }: { spec: Spec; onSpec: (spec: Spec | null) => void }) {
  const [levels, setLevels] = useState<Record<string, string>>(
    Object.fromEntries(
      Object.entries(spec.factors).map(([name, of]) => [name, of.map(told).join(", ")]),
    ),
  );
  const [repeats, setRepeats] = useState(String(spec.repeats));
  const [rate, setRate] = useState(spec.rate_per_h == null ? "" : String(spec.rate_per_h));
  const change = (now: { levels?: typeof levels; repeats?: string; rate?: string }) => {
    const next = { levels, repeats, rate, ...now };
    setLevels(next.levels);
    setRepeats(next.repeats);
    setRate(next.rate);
    const factors: Record<string, Level[]> = {};
    for (const [name, text] of Object.entries(next.levels)) {
      const read = levelsOf(text);
      if (!read) return onSpec(null);
      factors[name] = read;
    }
    const many = Number(next.repeats);
    const costs = next.rate.trim() ? Number(next.rate) : null;
    if (!Number.isInteger(many) || many < 1 || (costs != null && !(costs >= 0)))
      return onSpec(null);
    onSpec({ ...spec, factors, repeats: many, rate_per_h: costs });
  };
  return (
    <div className="flex flex-wrap gap-3">
      {Object.entries(levels).map(([name, text]) => (
        <label key={name} className="min-w-52 flex-1">
          <span className="block text-[12.5px] text-faded">{name}, levels</span>
          <input
            className="field w-full"
            aria-invalid={!levelsOf(text)}
            value={text}
            onChange={(e) => change({ levels: { ...levels, [name]: e.target.value } })}
          />
        </label>
      ))}
      <label>
        <span className="block text-[12.5px] text-faded">of each</span>
        <input
          className="field w-16"
          inputMode="numeric"
          value={repeats}
          onChange={(e) => change({ repeats: e.target.value })}
        />
      </label>
      <label>
        <span className="block text-[12.5px] text-faded">{coin()} an hour</span>
        <input
          className="field w-20"
          inputMode="decimal"
          value={rate}
          onChange={(e) => change({ rate: e.target.value })}
        />
      </label>
      {repeats === "1" && (
        <p className="w-full text-[13px] text-persimmon">
          One of each shows a direction, not a rate: a single snag would count as the setting's
          fault.
        </p>
      )}
    </div>
  );
}
