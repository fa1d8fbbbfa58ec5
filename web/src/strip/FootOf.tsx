import type { Foot } from "../stage/scene";
import { Ribbons } from "./Ribbons";
import { Strip } from "./Strip";

interface Props {
  foot: Foot;
  layer: number | null;
  onLayer: (layer: number | null) => void;
  stale?: boolean;
}

/** What lies along the foot of the page: a ribbon, two of them, or a word on when there will be one. */
export function FootOf({ foot, layer, onLayer, stale }: Props) {
  const cut = { layer, onLayer, stale };
  if (foot.kind === "two figures") return <Ribbons above={foot.above} below={foot.below} />;
  if (foot.kind === "two strips")
    return (
      <>
        <Strip compact title={foot.above.title} data={foot.above.data} {...cut} />
        <Strip compact title={foot.below.title} data={foot.below.data} {...cut} />
      </>
    );
  if (foot.kind === "strip") return <Strip data={foot.data} {...cut} />;
  return (
    <div
      className={`flex ${foot.low ? "h-[34px]" : "h-[170px]"} items-center justify-center text-center text-faded`}
    >
      {foot.text}
    </div>
  );
}
