import { Tip } from "../ui/Tip";
import { piecesOf } from "./glossary";

/** A sentence whose words of the craft say what they mean, under the pointer or the focus. */
export function Explained({ text }: { text: string }) {
  return (
    <>
      {piecesOf(text).map((piece, k) =>
        typeof piece === "string" ? (
          piece
        ) : (
          <Tip key={k} text={piece.entry.sense}>
            <button type="button" className="word">
              {piece.said}
            </button>
          </Tip>
        ),
      )}
    </>
  );
}
