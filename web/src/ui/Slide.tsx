import { Slider } from "radix-ui";

interface Props {
  label: string;
  value: number;
  min: number;
  max: number;
  step: number;
  said: string;
  onValue: (value: number) => void;
}

/** A number by a thumb on a thread. */
export function Slide({ label, value, min, max, step, said, onValue }: Props) {
  return (
    <Slider.Root
      value={[value]}
      min={min}
      max={max}
      step={step}
      onValueChange={([v]) => onValue(v)}
      className="relative flex h-6 min-w-0 flex-1 touch-none items-center select-none"
    >
      <Slider.Track className="relative h-[2px] flex-1 bg-thread">
        <Slider.Range className="absolute h-full bg-indigo" />
      </Slider.Track>
      <Slider.Thumb
        aria-label={label}
        aria-valuetext={said}
        className="block h-4 w-4 rounded-full border-2 border-paper bg-indigo"
      />
    </Slider.Root>
  );
}
