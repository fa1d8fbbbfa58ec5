interface Props {
  label: string;
  value: number | "";
  min: number;
  max: number;
  step: number;
  onValue: (value: number | "") => void;
}

/** A number that somebody asks for, between what can be. */
export function Asked({ label, value, min, max, step, onValue }: Props) {
  return (
    <label>
      <span className="block text-faded">{label}</span>
      <input
        type="number"
        className="field w-24"
        min={min}
        max={max}
        step={step}
        value={value}
        onChange={(e) => onValue(e.target.value === "" ? "" : Number(e.target.value))}
      />
    </label>
  );
}

export const within = (value: number | "", min: number, max: number): value is number =>
  value !== "" && value >= min && value <= max;
