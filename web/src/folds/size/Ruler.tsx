export const COMMON = [28, 32, 54, 75, 100];

/** The figure's outline beside the common sizes, to one scale. */
export function Ruler({ intake, size }: { intake: { silhouette_sha: string; size_mm: number[] }; size: number[] }) {
  const tall = Math.max(size[2], 32) * 1.12;
  const high = 236;
  const k = high / tall;
  const pixel = 1.04 * Math.max(size[0] / 220, size[2] / 260);
  const width = 220 * pixel * k;
  const w = 250;
  return (
    <svg width={w} height={high + 22} role="img" aria-label={`Outline ${size[2].toFixed(0)} mm tall beside the sizes 28, 32, 54 and 75 mm`} className="self-start">
      {COMMON.filter((h) => h <= tall).map((h) => (
        <g key={h} transform={`translate(0 ${high - h * k})`}><line x2={w} stroke="var(--thread)" strokeDasharray="2 4" /><text x={w} y="-3" textAnchor="end" fontSize="11" fill="var(--faded)">{h} mm</text></g>
      ))}
      <line x2={w} y1={high} y2={high} stroke="var(--clay)" />
      <image href={`/api/blobs/${intake.silhouette_sha}`} x={2} width={width} height={260 * pixel * k} y={high - (size[2] * k) / 2 - (260 * pixel * k) / 2} preserveAspectRatio="none" />
      <g transform={`translate(${Math.min(w - 60, 16 + (width + size[0] * k) / 2)} 0)`} stroke="var(--persimmon)"><line y1={high} y2={high - size[2] * k} /><line x1="-4" x2="4" y1={high} y2={high} /><line x1="-4" x2="4" y1={high - size[2] * k} y2={high - size[2] * k} /></g>
      <text x={Math.min(w - 54, 22 + (width + size[0] * k) / 2)} y={high - (size[2] * k) / 2} fontSize="13" fill="var(--persimmon)">{size[2].toFixed(1)}</text>
      <text y={high + 16} fontSize="11" fill="var(--faded)">outline from the front, to scale</text>
    </svg>
  );
}
