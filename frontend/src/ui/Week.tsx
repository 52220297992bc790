import { Plus, X } from "lucide-react";

import { Button, Input } from "./parts";

/** Seven days of stretches, each from and to in minutes since midnight. */
export type Week = number[][][];
const DAYS = ["Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday"];
export const noWeek = (): Week => DAYS.map(() => []);

/** Minutes since midnight as a clock shows them, 24:00 for the day's end. */
export const clock = (minutes: number) =>
  `${String(Math.floor(minutes / 60)).padStart(2, "0")}:${String(minutes % 60).padStart(2, "0")}`;
const minutesOf = (text: string) => {
  const [h, m] = text.split(":").map(Number);
  return (h ?? 0) * 60 + (m ?? 0);
};

/** Hours of a week, day by day. */
export function WeekField({ label, value, onChange }: { label: string; value: Week; onChange: (week: Week) => void }) {
  const put = (day: number, spans: number[][]) => onChange(value.map((d, k) => (k === day ? spans : d)));
  return (
    <fieldset className="grid gap-1">
      <legend className="mb-1 font-semibold">{label}</legend>
      {DAYS.map((name, day) => (
        <div key={name} className="flex flex-wrap items-center gap-2">
          <span className="w-24">{name}</span>
          {value[day]!.map(([from, to], k) => (
            <span key={k} className="flex items-center gap-1">
              <Input
                type="time"
                className="w-28"
                aria-label={`${name} from`}
                value={clock(from!)}
                onChange={(e) =>
                  e.target.value &&
                  put(
                    day,
                    value[day]!.map((s, i) => (i === k ? [minutesOf(e.target.value), s[1]!] : s)),
                  )
                }
              />
              –
              <Input
                type="time"
                className="w-28"
                aria-label={`${name} to`}
                value={clock(to! === 1440 ? 1439 : to!)}
                onChange={(e) =>
                  e.target.value &&
                  put(
                    day,
                    value[day]!.map((s, i) => (i === k ? [s[0]!, minutesOf(e.target.value)] : s)),
                  )
                }
              />
              <Button
                type="button"
                tone="quiet"
                aria-label={`${name}: not ${clock(from!)} to ${clock(to!)}`}
                onClick={() =>
                  put(
                    day,
                    value[day]!.filter((_, i) => i !== k),
                  )
                }
              >
                <X aria-hidden className="size-4" />
              </Button>
            </span>
          ))}
          {value[day]!.length < 6 && (
            <Button
              type="button"
              tone="quiet"
              aria-label={`Hours on ${name}`}
              onClick={() => {
                const last = value[day]!.at(-1)?.[1] ?? 960;
                put(day, [...value[day]!, last < 1320 ? [last + 60, last + 120] : [600, 660]]);
              }}
            >
              <Plus aria-hidden className="size-4" />
            </Button>
          )}
        </div>
      ))}
    </fieldset>
  );
}
