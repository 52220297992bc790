import type { Schemas } from "../api/client";

type Mark = Schemas["Mark"];

const COLOURS = { measure: "var(--picture-mark)", coach: "var(--coach)", ghost: "var(--on-picture)" } as const;

/** Shapes over a picture, in pixels of the clip, as a told film has them. */
export function Marks({ marks, height }: { marks: Mark[]; height: number }) {
  const unit = height / 720;
  return (
    <g className="pointer-events-none">
      {marks.map((m, k) => (
        <g key={k} data-mark={m.kind}>
          {["var(--picture-dark)", COLOURS[m.tone]].map((colour, way) => (
            <Shape key={way} mark={m} colour={colour} width={(way ? 4 : 9) * unit} unit={unit} />
          ))}
        </g>
      ))}
    </g>
  );
}

function Shape({ mark, colour, width, unit }: { mark: Mark; colour: string; width: number; unit: number }) {
  const look = {
    fill: "none",
    stroke: colour,
    strokeWidth: width,
    strokeLinecap: "round",
    strokeLinejoin: "round",
  } as const;
  const [a, b] = mark.points;
  if (!a || mark.kind === "text") return null;
  if (mark.kind === "circle" && b)
    return <circle cx={a[0]} cy={a[1]} r={Math.hypot(b[0]! - a[0]!, b[1]! - a[1]!)} {...look} />;
  const line = <polyline points={mark.points.map((p) => p.join(",")).join(" ")} {...look} />;
  if (mark.kind !== "arrow" || mark.points.length < 2) return line;
  const [p, q] = mark.points.slice(-2) as [number[], number[]];
  const back = Math.atan2(p[1]! - q[1]!, p[0]! - q[0]!);
  const wing = (turn: number) =>
    `${q[0]! + 28 * unit * Math.cos(back + turn)},${q[1]! + 28 * unit * Math.sin(back + turn)}`;
  return (
    <>
      {line}
      <polyline points={`${wing(0.45)} ${q.join(",")} ${wing(-0.45)}`} {...look} />
    </>
  );
}

/** What shapes say, each beside its own. */
export function MarkWords({ marks, width, height }: { marks: Mark[]; width: number; height: number }) {
  return marks
    .filter((m) => m.words)
    .map((m, k) => {
      const p = m.points.length ? m.points[m.kind === "text" ? 0 : Math.floor(m.points.length / 2)]! : null;
      const right = p && p[0]! > 0.75 * width;
      return (
        <output
          key={k}
          className="pointer-events-none absolute rounded bg-picture-dark px-2 py-0.5 font-semibold text-picture-mark"
          style={
            p
              ? {
                  top: `${Math.max(2, Math.min(94, (100 * p[1]!) / height - 3))}%`,
                  ...(right
                    ? { right: `${100 - (100 * p[0]!) / width + 1.5}%` }
                    : { left: `${(100 * p[0]!) / width + 1.5}%` }),
                }
              : { top: "1%", right: "1%" }
          }
        >
          {m.words}
        </output>
      );
    });
}
