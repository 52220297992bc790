import { createContext, useContext, useState, type ComponentProps } from "react";

import { Input } from "./parts";

export type Units = "metric" | "imperial";

/** What the coach wants lengths and speeds in; all that is sent and kept is metric. */
export const UnitsContext = createContext<Units>("metric");
export const useUnits = () => useContext(UnitsContext);

/** Metric unit → the other one, and how much of the metric one it is. */
const OTHER: Record<string, [string, number] | undefined> = {
  m: ["ft", 0.3048],
  cm: ["in", 2.54],
  "km/h": ["mph", 1.609344],
};

/** The unit that stands at a field, and how much of the metric one it is. */
export const unitFor = (units: Units, metric: string): [string, number] =>
  (units === "imperial" && OTHER[metric]) || [metric, 1];

/** A rider's height: 175 cm, 5 ft 9 in. */
export function heightWords(cm: number, units: Units): string {
  if (units === "metric") return `${cm} cm`;
  const inches = Math.round(cm / 2.54);
  return `${Math.floor(inches / 12)} ft ${inches % 12} in`;
}

const asNumber = (text: string) => Number(text.trim().replace(",", "."));
const inUnit = (metric: string, size: number) =>
  metric.trim() === "" || Number.isNaN(asNumber(metric))
    ? metric
    : String(Number((asNumber(metric) / size).toFixed(2)));

interface Props extends Omit<ComponentProps<typeof Input>, "value" | "onChange"> {
  /** The metric unit of `value`. */
  unit: string;
  value: string;
  onChange: (metric: string) => void;
}

/** A field for a number that is kept in a metric unit and typed in the coach's own. */
export function Measure({ unit, value, onChange, ...more }: Props) {
  const [, size] = unitFor(useUnits(), unit);
  // What is being typed stands as it is typed.
  const [typed, setTyped] = useState<{ text: string; metric: string } | null>(null);
  const text = typed?.metric === value ? typed.text : inUnit(value, size);
  const type = (next: string) => {
    const metric =
      size === 1 || next.trim() === "" || Number.isNaN(asNumber(next))
        ? next
        : String(Number((asNumber(next) * size).toFixed(4)));
    setTyped({ text: next, metric });
    onChange(metric);
  };
  return <Input inputMode="decimal" {...more} value={text} onChange={(e) => type(e.target.value)} />;
}
