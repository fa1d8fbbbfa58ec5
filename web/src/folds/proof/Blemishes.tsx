import type { PrintFile } from "../../api/client";
import { useAddress } from "../../shell/address";
import { count, mm } from "../../shell/format";

type Found = NonNullable<PrintFile["blemishes"]>;
type Spot = Found["spots"][number];

const CODES = {
  string: (s: Spot) => `${count(s.count)} strings`,
  start: (s: Spot) => `${count(s.count)} seams`,
  slowed: (s: Spot) => `${count(s.count)} layers slowed`,
} as const;

/** What the path counts, in a sentence. */
export function saidOfBlemishes(b: Found): string {
  const strings =
    `${count(b.strings)} travels cross ${(b.air_mm / 1000).toFixed(1)} m of open air ` +
    `with the filament drawn back, ${count(b.strings_seen)} of them end where it is seen`;
  const seams = `${count(b.starts_seen)} of ${count(b.starts)} outermost lines begin where it is seen`;
  const slowed = b.slowed
    ? `${count(b.slowed)} layers are so short that they are slowed to cool`
    : "no layer is slowed to cool";
  return `${strings}. ${seams}; ${slowed}.`;
}

/** Strings, seams and short layers of a written path, with the places where most of them are: each opens its layer. */
export function Blemishes({ of }: { of: Found }) {
  const { put } = useAddress();
  return (
    <section aria-label="Strings and seams" className="mt-2">
      <p>{saidOfBlemishes(of)}</p>
      <p>
        {of.spots.map((s) => (
          <button
            key={`${s.code} ${s.layer}`}
            type="button"
            className="mr-3 text-indigo underline"
            aria-label={`${CODES[s.code](s)} around ${mm(s.z_mm, 1)}: play layer ${s.layer}`}
            onClick={() => put({ played: s.layer, move: null })}
          >
            {CODES[s.code](s)} at {mm(s.z_mm, 1)}
          </button>
        ))}
      </p>
      <p className="text-faded">
        Counted on the path itself. How many of them leave a mark is the filament&apos;s and the
        machine&apos;s: look at a test print.
      </p>
    </section>
  );
}
