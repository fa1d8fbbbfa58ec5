/** Two limits as somebody types them. */
export function LimitFields(props: {
  risk: string;
  hours: string;
  onRisk: (text: string) => void;
  onHours: (text: string) => void;
}) {
  return (
    <>
      <label className="flex items-center gap-2">
        at most
        <input
          className="field w-16"
          inputMode="decimal"
          aria-label="Most risk, per cent"
          placeholder="any"
          value={props.risk}
          onChange={(e) => props.onRisk(e.target.value)}
        />
        % lost
      </label>
      <label className="flex items-center gap-2">
        and
        <input
          className="field w-16"
          inputMode="decimal"
          aria-label="Most hours"
          placeholder="any"
          value={props.hours}
          onChange={(e) => props.onHours(e.target.value)}
        />
        hours each
      </label>
    </>
  );
}
