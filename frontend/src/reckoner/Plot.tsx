import { useId, useState } from "react";
import {
  Area,
  CartesianGrid,
  ComposedChart,
  Line,
  ReferenceDot,
  ReferenceLine,
  ResponsiveContainer,
  XAxis,
  YAxis,
} from "recharts";

import type { Schemas } from "../api/client";

type Drawn = Schemas["ReckonedPlot"];

/** The answer over one of its quantities, its ± as a soft edge; the quantity is dragged below. */
export function Plot({ plot, onDrag }: { plot: Drawn; onDrag: (key: string, text: string, unit: string) => void }) {
  const id = useId();
  const data = plot.points.map(([x, y, u]) => ({ x: x!, y: y!, band: [y! - u!, y! + u!] }));
  // While it is dragged the slider is the hand's, and its range stands still; the answer follows.
  const [held, setHeld] = useState<{ value: number; low: number; high: number } | null>(null);
  const { low, high } = held ?? plot;
  const [x, y] = plot.at as [number, number];
  const name = (axis: Drawn["x"]) => `${axis.title}${axis.unit ? `, ${axis.unit}` : ""}`;
  const tick = { fill: "var(--soft)", fontSize: 12 };
  return (
    <figure className="grid gap-1">
      <figcaption className="text-sm text-soft">{name(plot.y)}</figcaption>
      <div className="h-56" aria-hidden>
        <ResponsiveContainer>
          <ComposedChart data={data} margin={{ top: 8, right: 16, bottom: 0, left: 0 }} accessibilityLayer={false}>
            <CartesianGrid stroke="var(--line)" vertical={false} />
            <XAxis
              type="number"
              dataKey="x"
              domain={[plot.low, plot.high]}
              tickFormatter={short}
              tickCount={6}
              stroke="var(--soft)"
              tick={tick}
            />
            <YAxis
              type="number"
              domain={["auto", "auto"]}
              tickFormatter={short}
              width={52}
              stroke="var(--soft)"
              tick={tick}
            />
            <Area dataKey="band" fill="var(--deep)" fillOpacity={0.14} stroke="none" isAnimationActive={false} />
            <Line dataKey="y" stroke="var(--deep)" strokeWidth={2} dot={false} isAnimationActive={false} />
            <ReferenceLine x={x} stroke="var(--soft)" strokeDasharray="3 4" />
            <ReferenceDot x={x} y={y} r={6} fill="var(--deep)" stroke="var(--sheet)" strokeWidth={2} />
          </ComposedChart>
        </ResponsiveContainer>
      </div>
      <label htmlFor={id} className="text-right text-sm text-soft">
        {name(plot.x)}
      </label>
      {plot.moves && (
        <input
          id={id}
          type="range"
          className="ml-12 min-h-8 accent-deep"
          min={low}
          max={high}
          step={(high - low) / 200}
          value={held?.value ?? x}
          aria-valuetext={`${short(held?.value ?? x)} ${plot.x.unit}`}
          onChange={(e) => {
            const value = Number(e.target.value);
            setHeld({ value, low, high });
            onDrag(plot.x.key, short(value), plot.x.unit);
          }}
          onPointerUp={() => setHeld(null)}
          onBlur={() => setHeld(null)}
        />
      )}
    </figure>
  );
}

const short = (v: number) => `${Number(v.toPrecision(3))}`;
