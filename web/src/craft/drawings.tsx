import type { ReactNode } from "react";

const [INK, FAINT, GOOD, BAD] = [
  "var(--indigo)",
  "var(--thread)",
  "var(--moss)",
  "var(--persimmon)",
];

const Line = ({ d, stroke = INK, w = 1.6 }: { d: string; stroke?: string; w?: number }) => (
  <path d={d} fill="none" stroke={stroke} strokeWidth={w} strokeLinecap="round" />
);
const Shape = ({ d, fill = "var(--folded)" }: { d: string; fill?: string }) => (
  <path d={d} fill={fill} stroke={INK} strokeWidth="1.4" strokeLinejoin="round" />
);
const Said = ({ x, y, children }: { x: number; y: number; children: ReactNode }) => (
  <text x={x} y={y} fontSize="11" fill="var(--ink)" textAnchor="middle">
    {children}
  </text>
);
const Plate = () => <Line d="M8 122H292" w={2.4} />;
/** A reed warden from afar: foot, cloak, head. */
const warden = (x: number, lean = 0) =>
  `M${x - 16} 121L${x - 12 + lean * 0.4} 84Q${x - 16 + lean * 0.7} 60 ${x - 6 + lean} 50` +
  `Q${x - 9 + lean} 34 ${x + lean} 32Q${x + 10 + lean} 34 ${x + 7 + lean} 50` +
  `Q${x + 17 + lean * 0.7} 60 ${x + 12 + lean * 0.4} 84L${x + 16} 121Z`;

const DRAWINGS: Record<string, ReactNode> = {
  height: (
    <>
      <Plate />
      <Shape d={warden(120)} />
      <Line d="M146 32H206M146 40H176" stroke={FAINT} />
      <Line d="M200 32V121M170 40V121" stroke={BAD} />
      <Said x={232} y={80}>
        crown
      </Said>
      <Said x={158} y={80}>
        eye
      </Said>
    </>
  ),
  surfaces: (
    <>
      <Plate />
      <Shape d={warden(150)} />
      <path d="M141 50Q142 33 150 33Q158 34 157 50Z" fill={BAD} opacity="0.75" />
      <path d="M135 112H165L166 121H134Z" fill={INK} opacity="0.55" />
      <Line d="M60 44Q100 30 134 42M240 44Q200 30 166 42" stroke={FAINT} />
      <Said x={46} y={48}>
        eyes
      </Said>
      <Said x={254} y={48}>
        eyes
      </Said>
      <Said x={222} y={119}>
        nobody looks
      </Said>
    </>
  ),
  island: (
    <>
      <Plate />
      <Shape d={warden(80)} />
      <Shape d="M92 66Q112 70 114 88L120 92L112 96Q104 80 90 78Z" />
      <Line d="M108 99H124" stroke={BAD} w={3} />
      <Said x={146} y={112}>
        begins in mid air
      </Said>
      <Shape d="M222 108L196 70Q186 48 200 38Q196 26 208 24Q218 28 212 42Q226 44 236 62L252 96Z" />
      <Line d="M228 108V121M244 100V121" stroke={GOOD} />
    </>
  ),
  drain: (
    <>
      <Plate />
      <Shape d="M110 121V60Q110 28 150 28Q190 28 190 60V121Z" />
      <path d="M122 112V62Q122 40 150 40Q178 40 178 62V112Z" fill="var(--paper)" stroke={INK} />
      <path d="M122 112V98H178V112Z" fill={INK} opacity="0.35" />
      <Line d="M184 106H204M184 60H204" stroke={BAD} w={5} />
      <Said x={232} y={110}>
        runs out
      </Said>
      <Said x={228} y={64}>
        air in
      </Said>
    </>
  ),
  tip: (
    <>
      <Shape d="M30 60L110 60L70 20Z" />
      <Line d="M110 60V118" stroke={GOOD} w={3} />
      <Line d="M104 66L110 60L116 66" stroke={GOOD} />
      <Said x={66} y={104}>
        on the edge
      </Said>
      <Shape d="M180 60L260 60L220 20Z" />
      <Line d="M220 62V118" stroke={BAD} w={3} />
      <Said x={254} y={104}>
        on the flat
      </Said>
      <Line d="M8 122H292" w={2.4} />
    </>
  ),
  steps: (
    <>
      {[24, 12, 6].map((rise, k) => {
        const x = 20 + k * 96;
        let d = `M${x} 120`;
        for (let y = 0; y < 72; y += rise) d += `v${-rise}h${rise}`;
        return (
          <g key={rise}>
            <Line d={d} />
            <Line d={`M${x} 120L${x + 72} 48`} stroke={BAD} w={1} />
            <Said x={x + 36} y={137}>
              {["1 ×", "2 ×", "4 ×"][k]} the hours
            </Said>
          </g>
        );
      })}
    </>
  ),
  walk: (
    <>
      {[0, 1, 2, 3, 4, 5].map((k) => (
        <g key={k} transform={`translate(${16 + k * 46} 34)`}>
          <rect width="38" height="62" fill="none" stroke={FAINT} />
          <ellipse
            cx="19"
            cy="34"
            rx={15 - 1.6 * k}
            ry={12 - k}
            fill="var(--folded)"
            stroke={INK}
          />
          {k === 2 && <circle cx="31" cy="14" r="3" fill={BAD} />}
          {k > 2 && (
            <circle
              cx={31 - (k - 2) * 3}
              cy={14 + (k - 2) * 4}
              r={3 + k / 2}
              fill={BAD}
              opacity="0.6"
            />
          )}
        </g>
      ))}
      <Said x={127} y={116}>
        here it begins
      </Said>
    </>
  ),
  wash: (
    <>
      {["drip", "wash", "wash", "dry", "off", "lamp"].map((name, k) => (
        <g key={k} transform={`translate(${14 + k * 47} 44)`}>
          <Shape d="M4 6H36L33 44H7Z" fill={k === 1 ? "var(--water)" : "var(--folded)"} />
          <Said x={20} y={64}>
            {name}
          </Said>
          {k < 5 && <Line d="M38 24H45" stroke={FAINT} />}
        </g>
      ))}
    </>
  ),
  held: (
    <>
      <Plate />
      <Shape d="M60 60Q100 40 140 60L132 84Q100 70 66 84Z" />
      <Line d="M66 121V84M132 121V84" stroke={GOOD} w={3} />
      <Shape d="M176 60Q216 40 256 60L248 84Q216 70 182 84Z" />
      <Line d="M182 121V84" stroke={GOOD} w={3} />
      <Said x={252} y={106}>
        ?
      </Said>
    </>
  ),
  series: (
    <>
      {[0, 1, 2, 3].map((k) => (
        <g key={k}>
          <rect
            x={40 + (k % 2) * 40}
            y={34 + (k >> 1) * 40}
            width="34"
            height="34"
            stroke={INK}
            fill={k === 0 || k === 3 ? INK : "none"}
          />
          <rect
            x={180 + (k % 2) * 40}
            y={34 + (k >> 1) * 40}
            width="34"
            height="34"
            stroke={INK}
            fill={GOOD}
            opacity="0.7"
          />
        </g>
      ))}
      <Said x={77} y={130}>
        moves together
      </Said>
      <Said x={217} y={130}>
        every cell
      </Said>
    </>
  ),
};

/** A drawing of the craft, with what it shows in words. */
export function Drawing({ name, text }: { name: string; text: string }) {
  return (
    <figure className="float-right mb-2 ml-8 w-[400px] max-w-full max-[1000px]:float-none max-[1000px]:ml-0">
      <svg viewBox="0 0 300 142" role="img" aria-label={text} className="w-full bg-paper">
        {DRAWINGS[name]}
      </svg>
      <figcaption className="text-[12.5px] text-faded">{text}</figcaption>
    </figure>
  );
}

export const DRAWN = Object.keys(DRAWINGS);
