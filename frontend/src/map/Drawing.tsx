import { framed, softEdge, type Frame, type RunMap } from "./scale";

type Line = RunMap["lines"][number];
type Mark = RunMap["marks"][number];
interface Props {
  map: RunMap;
  /** The unit that is pointed at; the others are paler. */
  chosen: number | null;
  onPoint: (unit: number | null) => void;
  onGo: (t: number) => void;
}

const ink = (side: string | null) =>
  side === "left" ? "var(--left)" : side === "right" ? "var(--right)" : "var(--deep)";

/** A map as it was measured, to scale where there is one; a press on a line or a mark goes to its moment. */
export function Drawing({ map, chosen, onPoint, onGo }: Props) {
  const frame = framed(map);
  const pale = (unit: number | null) => (chosen !== null && unit !== null && unit !== chosen ? 0.22 : 1);
  return (
    <svg
      viewBox={`0 0 ${frame.width.toFixed(0)} ${frame.height.toFixed(0)}`}
      role="img"
      aria-label={`${map.title}. ${map.says.join(" ")}`}
      className="w-full rounded border border-line bg-sheet"
      style={{ maxWidth: `${frame.width.toFixed(0)}px` }}
      onPointerLeave={() => onPoint(null)}
    >
      {map.areas.map((area, k) => {
        const corners = area.at.map(frame.at);
        const top = corners.reduce((a, b) => (b[1] < a[1] || (b[1] === a[1] && b[0] < a[0]) ? b : a));
        return (
          <g key={k}>
            <polygon
              points={corners.map((p) => p.join(",")).join(" ")}
              fill={area.kind === "wanted" ? "var(--good)" : "var(--tint)"}
              fillOpacity={area.kind === "wanted" ? 0.14 : 1}
            />
            <text x={top[0] + 6} y={top[1] + 16} fontSize={14} fill="var(--soft)">
              {area.words}
            </text>
          </g>
        );
      })}
      <Axis map={map} frame={frame} />
      {map.lines.map((line, k) => (
        <Drawn key={k} line={line} frame={frame} opacity={pale(line.unit)} onPoint={onPoint} onGo={onGo} />
      ))}
      {map.marks.map((mark, k) => (
        <Marked key={k} mark={mark} frame={frame} opacity={pale(mark.unit)} onPoint={onPoint} onGo={onGo} />
      ))}
      {map.scale_bar !== null && <ScaleBar map={map} frame={frame} />}
    </svg>
  );
}

function Axis({ map, frame }: { map: RunMap; frame: Frame }) {
  const name = (axis: RunMap["x"]) => (axis.title ? `${axis.title}${axis.unit ? `, ${axis.unit}` : ""}` : "");
  const [along, up] = frame.laid ? [map.y, map.x] : [map.x, map.y];
  const low = (v: number) => frame.at([v, map.y.lo]);
  const side = (v: number) => frame.at([map.x.lo, v]);
  return (
    <g fontSize={14} fill="var(--soft)" stroke="none">
      {map.x.ticks.map((v, k) => {
        const [a, b] = [low(v), frame.at([v, map.y.hi])];
        return (
          <g key={v}>
            <line x1={a[0]} y1={a[1]} x2={b[0]} y2={b[1]} stroke="var(--line)" />
            <text x={a[0]} y={a[1] + 17} textAnchor="middle">
              {map.x.words[k] ?? v}
            </text>
          </g>
        );
      })}
      {map.y.ticks.map((v, k) => {
        const [a, b] = [side(v), frame.at([map.x.hi, v])];
        return (
          <g key={v}>
            <line x1={a[0]} y1={a[1]} x2={b[0]} y2={b[1]} stroke="var(--line)" />
            <text x={a[0] - 6} y={a[1] + 5} textAnchor="end">
              {map.y.words[k] ?? v}
            </text>
          </g>
        );
      })}
      <text x={frame.width / 2} y={frame.height - 8} textAnchor="middle">
        {name(along)}
        {frame.laid && along.title && " →"}
      </text>
      <text x={8} y={20}>
        {name(up)}
      </text>
    </g>
  );
}

interface Shown {
  frame: Frame;
  opacity: number;
  onPoint: (unit: number | null) => void;
  onGo: (t: number) => void;
}

function Drawn({ line, frame, opacity, onPoint, onGo }: Shown & { line: Line }) {
  const at = line.at.map(frame.at);
  const points = at.map(([x, y]) => `${x.toFixed(1)},${y.toFixed(1)}`).join(" ");
  const colour = line.kind === "plain" ? "var(--line)" : line.kind === "body" ? "var(--soft)" : ink(line.side);
  const wide = line.kind === "strong" ? 5 : line.kind === "plain" ? 1.5 : 2;
  const soft = softEdge(line, frame);
  const press = (e: React.MouseEvent<SVGGElement>) => {
    if (!line.t.length) return;
    const box = e.currentTarget.ownerSVGElement!.getBoundingClientRect();
    const k = frame.width / box.width;
    const [x, y] = [(e.clientX - box.left) * k, (e.clientY - box.top) * k];
    const near = at.reduce((best, p, i) => {
      const q = at[best]!;
      return Math.hypot(p[0] - x, p[1] - y) < Math.hypot(q[0] - x, q[1] - y) ? i : best;
    }, 0);
    onGo(line.t[near]!);
  };
  return (
    // The list beside the drawing gives the same by key.

    <g
      opacity={opacity}
      className={line.t.length ? "cursor-pointer" : ""}
      onClick={press}
      onPointerEnter={() => onPoint(line.unit)}
    >
      {line.words && <title>{line.words}</title>}
      {soft && <polygon points={soft} fill={colour} fillOpacity={0.16} />}
      {line.width.length ? (
        at
          .slice(1)
          .map((p, k) => (
            <line
              key={k}
              x1={at[k]![0]}
              y1={at[k]![1]}
              x2={p[0]}
              y2={p[1]}
              stroke={colour}
              strokeWidth={1.5 + 7 * line.width[k]!}
              strokeLinecap="round"
            />
          ))
      ) : (
        <polyline
          points={points}
          fill="none"
          stroke={colour}
          strokeWidth={wide}
          strokeLinecap="round"
          strokeLinejoin="round"
        />
      )}
      {line.t.length > 0 && <polyline points={points} fill="none" stroke="transparent" strokeWidth={14} />}
    </g>
  );
}

function Marked({ mark, frame, opacity, onPoint, onGo }: Shown & { mark: Mark }) {
  const [x, y] = frame.at(mark.at);
  const [ux, uy] = frame.size(mark.u);
  const colour = ink(mark.side);
  const go = mark.t === null ? undefined : () => onGo(mark.t!);
  return (
    <g opacity={opacity} className={go ? "cursor-pointer" : ""} onClick={go} onPointerEnter={() => onPoint(mark.unit)}>
      {mark.words && <title>{mark.words}</title>}
      {Math.max(ux, uy) > 2 && (
        <ellipse cx={x} cy={y} rx={Math.max(ux, 2)} ry={Math.max(uy, 2)} fill={colour} fillOpacity={0.14} />
      )}
      {mark.kind === "tick" ? (
        <text x={x} y={y + 5} textAnchor="middle" fontSize={14} fill="var(--ink)">
          {mark.words}
        </text>
      ) : mark.kind === "dot" ? (
        <circle cx={x} cy={y} r={5} fill={colour} stroke="var(--sheet)" strokeWidth={1.5} />
      ) : mark.kind === "ring" ? (
        <circle cx={x} cy={y} r={6} fill="none" stroke={colour} strokeWidth={2.5} />
      ) : (
        <>
          <rect x={x - 5} y={y - 5} width={10} height={10} fill="var(--ink)" />
          {mark.kind === "costs" && <circle cx={x} cy={y} r={12} fill="none" stroke="var(--bad)" strokeWidth={2.5} />}
        </>
      )}
    </g>
  );
}

function ScaleBar({ map, frame }: { map: RunMap; frame: Frame }) {
  const [long] = frame.laid ? frame.size([0, map.scale_bar!]) : frame.size([map.scale_bar!, 0]);
  const [x, y] = [frame.width - 20 - long, frame.height - 22];
  return (
    <g stroke="var(--ink)" strokeWidth={2}>
      <path d={`M${x},${y - 5}v10M${x},${y}h${long}M${x + long},${y - 5}v10`} fill="none" />
      <text x={x + long / 2} y={y - 8} textAnchor="middle" fontSize={14} fill="var(--ink)" stroke="none">
        {map.scale_words}
      </text>
    </g>
  );
}
