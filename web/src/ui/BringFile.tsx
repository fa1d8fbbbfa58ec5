import { useRef } from "react";

interface Props {
  text: string;
  label: string;
  accept: string;
  onFile: (file: File) => void;
}

/** A button that asks for one file. */
export function BringFile({ text, label, accept, onFile }: Props) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <input
        ref={input}
        type="file"
        accept={accept}
        className="hidden"
        aria-label={label}
        onChange={(e) => {
          const file = e.target.files?.[0];
          e.target.value = "";
          if (file) onFile(file);
        }}
      />
      <button type="button" className="quiet" onClick={() => input.current?.click()}>
        {text}
      </button>
    </>
  );
}
