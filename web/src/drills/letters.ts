/** The letter of an option. */
export const letterOf = (k: number) => String.fromCharCode(65 + k);

/** The option that a digit picks, 1 for A; -1 for none. Letters are keys of the whole page. */
export const optionOf = (key: string, many: number) => {
  const k = /^[1-9]$/.test(key) ? Number(key) - 1 : -1;
  return k < many ? k : -1;
};

/** What is picked once an option is pressed: one alone, or one more or less. */
export const pickedWith = (picked: readonly number[], k: number, many: boolean): number[] =>
  picked.includes(k) ? picked.filter((p) => p !== k) : many ? [...picked, k].sort() : [k];

/** In words, how right an answer was. */
export const saidOf = (score: number) =>
  score >= 0.999 ? "Right." : score >= 0.5 ? "Nearly." : score > 0 ? "In part." : "Not so.";

/** In words, how hard a question is to whoever gets such a one right with this chance. */
export const howHard = (chance: number) =>
  chance >= 0.85
    ? "easy for you"
    : chance >= 0.6
      ? "about your measure"
      : chance >= 0.4
        ? "hard for you"
        : "very hard for you";
