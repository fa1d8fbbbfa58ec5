import { useState } from "react";
import { api, need } from "../api/client";
import { useWeekDeed, type Hours, type House, type Week } from "./api";

const DAYS = ["Mo", "Tu", "We", "Th", "Fr", "Sa", "Su"];
const EVENING: Hours = { days: [0, 1, 2, 3, 4], begin: "18:00", end: "22:00" };
type Station = House["stations"][number];

/** Who is there when, quiet hours, and stations. */
export function HouseForm({ week }: { week: Week }) {
  const [house, setHouse] = useState(week.house);
  const keep = useWeekDeed((of: House) =>
    need(api.PUT("/api/week/house", { body: { version: week.version, house: of } })),
  );
  const changed = JSON.stringify(house) !== JSON.stringify(week.house);
  const people = (of: House["people"]) => setHouse({ ...house, people: of });
  const stations = (of: House["stations"]) => setHouse({ ...house, stations: of });
  return (
    <form
      aria-label="Who is there"
      className="flex flex-wrap items-start gap-x-10 gap-y-4"
      onSubmit={(e) => {
        e.preventDefault();
        keep.mutate(house);
      }}
    >
      <section aria-label="People" className="min-w-96 flex-1">
        <h2 className="text-[18px]">Who is there, awake</h2>
        {house.people.map((p, i) => (
          <fieldset key={i} className="mb-2">
            <div className="flex items-center gap-2">
              <input
                className="field w-32"
                aria-label="Name"
                maxLength={60}
                value={p.name}
                onChange={(e) =>
                  people(house.people.map((q, j) => (j === i ? { ...q, name: e.target.value } : q)))
                }
              />
              <button
                type="button"
                className="text-[12.5px] text-faded underline"
                onClick={() => people(house.people.filter((_, j) => j !== i))}
              >
                take {p.name} away
              </button>
            </div>
            <HoursOf
              hours={p.hours}
              onHours={(hours) =>
                people(house.people.map((q, j) => (j === i ? { ...q, hours } : q)))
              }
              of={p.name}
            />
          </fieldset>
        ))}
        <button
          type="button"
          className="quiet px-2.5"
          onClick={() =>
            people([
              ...house.people,
              { name: `person ${house.people.length + 1}`, hours: [EVENING] },
            ])
          }
        >
          somebody else
        </button>
      </section>
      <section aria-label="Quiet" className="min-w-80 flex-1 space-y-3">
        <div>
          <h2 className="text-[18px]">
            Quiet: what runs goes on, nobody starts or handles anything
          </h2>
          <HoursOf
            hours={house.quiet}
            onHours={(quiet) => setHouse({ ...house, quiet })}
            of="quiet"
          />
        </div>
        <div>
          <h2 className="text-[18px]">Stations, and how many loads they take</h2>
          {house.stations.map((s, i) => (
            <div key={i} className="mb-1 flex items-center gap-2">
              <input
                className="field w-32"
                aria-label="Station"
                maxLength={60}
                value={s.name}
                onChange={(e) =>
                  stations(
                    house.stations.map((q, j) => (j === i ? { ...q, name: e.target.value } : q)),
                  )
                }
              />
              <span className="w-16 text-faded">{s.kind}</span>
              <input
                className="field w-14 text-center"
                aria-label={`loads of ${s.name}`}
                inputMode="numeric"
                value={s.capacity}
                onChange={(e) =>
                  stations(
                    house.stations.map((q, j): Station =>
                      j === i
                        ? { ...q, capacity: Math.max(1, Math.round(Number(e.target.value)) || 1) }
                        : q,
                    ),
                  )
                }
              />
            </div>
          ))}
        </div>
        <label className="flex items-center gap-2">
          look
          <input
            className="field w-14 text-center"
            aria-label="days ahead"
            inputMode="numeric"
            value={house.days}
            onChange={(e) =>
              setHouse({
                ...house,
                days: Math.min(28, Math.max(1, Math.round(Number(e.target.value)) || 1)),
              })
            }
          />
          days ahead; changing a material takes
          <input
            className="field w-14 text-center"
            aria-label="minutes to change a material"
            inputMode="numeric"
            value={house.change_min}
            onChange={(e) =>
              setHouse({ ...house, change_min: Math.max(0, Number(e.target.value) || 0) })
            }
          />
          min
        </label>
        <label className="flex items-center gap-2">
          clocks of
          <input
            className="field w-56"
            aria-label="Time zone"
            placeholder="clocks that never change"
            list="zones"
            value={house.zone}
            onChange={(e) => setHouse({ ...house, zone: e.target.value.trim() })}
          />
          <datalist id="zones">
            {Intl.supportedValuesOf("timeZone").map((zone) => (
              <option key={zone} value={zone} />
            ))}
          </datalist>
        </label>
        <button className="take" disabled={!changed || keep.isPending}>
          Keep these hours
        </button>
      </section>
    </form>
  );
}

function HoursOf({
  hours,
  onHours,
  of,
}: {
  hours: Hours[];
  onHours: (hours: Hours[]) => void;
  of: string;
}) {
  const put = (i: number, more: Partial<Hours>) =>
    onHours(hours.map((h, j) => (j === i ? { ...h, ...more } : h)));
  return (
    <>
      {hours.map((h, i) => (
        <div key={i} className="mt-1 flex flex-wrap items-center gap-1.5">
          {DAYS.map((name, d) => {
            const on = h.days.includes(d);
            return (
              <button
                key={name}
                type="button"
                aria-pressed={on}
                aria-label={`${name}, ${of}`}
                className={`border border-thread px-1.5 text-[12.5px] ${on ? "bg-indigo text-onindigo" : "bg-paper"}`}
                onClick={() => {
                  const days = on ? h.days.filter((x) => x !== d) : [...h.days, d].sort();
                  if (days.length) put(i, { days });
                }}
              >
                {name}
              </button>
            );
          })}
          <input
            type="time"
            className="field"
            aria-label={`${of} from`}
            value={h.begin}
            onChange={(e) => e.target.value && put(i, { begin: e.target.value })}
          />
          to
          <input
            type="time"
            className="field"
            aria-label={`${of} to`}
            value={h.end}
            onChange={(e) => e.target.value && put(i, { end: e.target.value })}
          />
          <button
            type="button"
            className="text-[12.5px] text-faded underline"
            onClick={() => onHours(hours.filter((_, j) => j !== i))}
          >
            not then
          </button>
        </div>
      ))}
      <button
        type="button"
        className="mt-1 text-[12.5px] text-indigo underline"
        onClick={() => onHours([...hours, EVENING])}
      >
        other hours
      </button>
    </>
  );
}
