import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { Link, useNavigate, useSearch } from "@tanstack/react-router";
import { ChevronLeft } from "lucide-react";
import { useEffect, useMemo, useRef, useState } from "react";

import { api, need, type Bench, type Schemas } from "../api/client";
import { bench as benchQuery, points } from "../api/queries";
import { Button, Select, Trouble, Waiting } from "../ui/parts";
import { nearest } from "../video/nearest";
import { Steps } from "../ui/Steps";
import { SPEEDS, usePlayer } from "../video/usePlayer";
import { useGhost } from "../bench/useGhost";
import { BothRibbons } from "./BothRibbons";
import { Curves } from "./Curves";
import { Differences, inOrder, type First, type Row } from "./Differences";
import { Half } from "./Half";
import { KeepFilm } from "./KeepFilm";
import { inOther, placeOf, sameAt, sameSize, usualHeight, type Moves } from "./matched";
import { Mended } from "./Mended";
import { Movement, momentWords } from "./Movement";
import { Outline } from "./Outline";
import { saveStill, type Layer } from "./still";

export interface Asked {
  a: number;
  b: number;
  ua?: number;
  ub?: number;
  mirror?: boolean;
}
type Lay = Schemas["LayEnum"];

/** Two runs, or two units, beside each other and moving as one. */
export function PairPage() {
  const asked = useSearch({ from: "/inside/pair" });
  const [a, b] = [useQuery(benchQuery(asked.a)), useQuery(benchQuery(asked.b))];
  const [xa, xb] = [
    useQuery({ ...points(asked.a, a.data?.version ?? ""), enabled: !!a.data }),
    useQuery({ ...points(asked.b, b.data?.version ?? ""), enabled: !!b.data }),
  ];
  const query = {
    a: asked.a,
    b: asked.b,
    ...(asked.ua === undefined || asked.ub === undefined ? {} : { unit_a: asked.ua, unit_b: asked.ub }),
    ...(asked.mirror ? { mirror: true } : {}),
  };
  const pair = useQuery({
    queryKey: ["pair", query, a.data?.version, b.data?.version],
    queryFn: () => need(api.GET("/api/pair", { params: { query } })),
    enabled: !!a.data && !!b.data,
    placeholderData: keepPreviousData,
    retry: false,
  });
  const error = a.error ?? b.error ?? xa.error ?? xb.error ?? pair.error;
  if (error) return <Trouble error={error} again={() => void pair.refetch()} />;
  if (!a.data || !b.data || !xa.data || !xb.data || !pair.data) return <Waiting what="Opening both" />;
  return <Pair asked={asked} a={a.data} b={b.data} xa={xa.data} xb={xb.data} pair={pair.data} query={query} />;
}

function Pair({
  asked,
  a,
  b,
  xa,
  xb,
  pair,
  query,
}: {
  asked: Asked;
  a: Bench;
  b: Bench;
  xa: Float32Array;
  xb: Float32Array;
  pair: Schemas["Pair"];
  query: { a: number; b: number; unit_a?: number; unit_b?: number; mirror?: boolean };
}) {
  const leave = useNavigate();
  const { same, comparison } = pair;
  const [moves, setMoves] = useState<Moves>("phase");
  const [offset, setOffset] = useState("0");
  const [sized, setSized] = useState(true);
  const [lay, setLay] = useState<Lay>("beside");
  const [edge, setEdge] = useState(50);
  const [picked, setPicked] = useState<Row | null>(null);
  const stage = useRef<HTMLDivElement>(null);
  const [told, setTold] = useState("");
  const span = useMemo<[number, number] | undefined>(
    () => (same.length === 1 ? [same[0]!.a[0]!, same[0]!.a.at(-1)!] : undefined),
    [same],
  );
  const player = usePlayer(a.t, span);
  const { frame, go, step } = player;
  const t = a.t[frame] ?? 0;
  const units = sameAt(same, t);
  const frameB = units ? nearest(b.t, inOther(units, t, moves)) : 0;
  const first = comparison.first_difference;
  const moment = moves === "phase" ? null : moves.moment;
  const seconds = Number.isFinite(Number(offset)) ? Number(offset) : 0;
  const atMoment = useQuery({
    queryKey: ["pair", query, moment, seconds, a.version, b.version],
    queryFn: () => need(api.GET("/api/pair", { params: { query: { ...query, event: moment!, offset_s: seconds } } })),
    enabled: moment !== null,
    placeholderData: keepPreviousData,
    retry: false,
  });
  // A pair opens where it begins to differ, else where its first units begin.
  const opened = useRef(false);
  useEffect(() => {
    if (opened.current) return;
    opened.current = true;
    go(first?.frame_a ?? nearest(a.t, same[0]?.a[0] ?? 0));
  }, [first, same, a.t, go]);
  const mended = useGhost(a, units?.unit_a, go);
  const tallA = useMemo(() => usualHeight(a, xa), [a, xa]);
  const tallB = useMemo(() => usualHeight(b, xb), [b, xb]);
  const partA = sized ? sameSize(a, xa, frame, tallA) : null;
  const partB = sized ? sameSize(b, xb, frameB, tallB) : null;

  const lookAt = (how: Moves, s: number) => {
    if (how !== "phase" && units) go(nearest(a.t, units.a[placeOf(units, how.moment)]! + s));
  };
  const move = (how: Moves) => {
    setMoves(how);
    lookAt(how, seconds);
  };
  const toPhase = ({ phase }: Row | First) => {
    if (!units || phase === null) return;
    const k = units.phases.indexOf(phase);
    if (k >= 0) go(nearest(a.t, (units.a[k]! + units.a[k + 1]!) / 2));
  };
  const jumpPhase = (by: number) => {
    if (!units) return;
    const marks = same.flatMap((s) => s.a.slice(0, -1));
    const next = by > 0 ? marks.find((m) => m > t + 1e-3) : marks.findLast((m) => m < t - 1e-3);
    if (next !== undefined) go(nearest(a.t, next));
  };
  const mirror = () => void leave({ to: "/pair", search: { ...asked, mirror: !asked.mirror } });
  const actions: Record<string, () => void> = {
    ArrowLeft: () => step(-1),
    ArrowRight: () => step(1),
    ArrowUp: () => jumpPhase(-1),
    ArrowDown: () => jumpPhase(1),
    " ": () => player.setPlaying(!player.playing),
    m: mirror,
    n: () => setSized(!sized),
    l: () => setMoves(moves === "phase" ? { moment: "start" } : "phase"),
    g: () => mended.toggle(),
  };
  const keys = useRef(actions);
  useEffect(() => {
    keys.current = actions;
  });
  useEffect(() => {
    const press = (e: KeyboardEvent) => {
      const target = e.target as HTMLElement;
      if (target.closest("input, select, textarea, [role=dialog]") || e.ctrlKey || e.metaKey || e.altKey) return;
      if (e.key === " " && target.closest("button, a, summary")) return;
      const action = keys.current[e.key];
      if (!action) return;
      e.preventDefault();
      action();
    };
    addEventListener("keydown", press);
    return () => removeEventListener("keydown", press);
  }, []);

  const rows = inOrder(moment === null ? pair : (atMoment.data ?? pair));
  const chosen = picked ?? rows.find((x) => x.words.each_frame)?.row ?? null;
  const drawn = rows.find((x) => x.row === chosen)?.words.each_frame ?? false;
  const curves = useQuery({
    queryKey: ["pair", "curves", query, units?.unit_a, units?.unit_b, chosen?.measure, chosen?.limb],
    queryFn: () =>
      need(
        api.GET("/api/pair/curves", {
          params: {
            query: {
              ...query,
              unit_a: units!.unit_a,
              unit_b: units!.unit_b,
              measure: chosen!.measure,
              limb: chosen!.limb ?? "",
            },
          },
        }),
      ),
    enabled: !!units && !!chosen && drawn,
    retry: false,
  });
  const whose = (bench: Bench, unit: number | undefined, side: string | null | undefined, f: number) =>
    [
      bench.run.rider.number != null ? `${bench.run.rider.number} ${bench.run.rider.name}` : bench.run.rider.name,
      unit === undefined ? "" : `${bench.unit} ${unit}${side ? `, ${side}` : ""}`,
      `frame ${f}`,
    ]
      .filter(Boolean)
      .join(" · ");
  const share = units ? shareOf(units.a, t) : 0;
  const wordsA = whose(a, units?.unit_a, units?.side_a, frame);
  const wordsB = whose(b, units?.unit_b, units?.side_b, frameB);
  const mirrored = !!asked.mirror;
  const halves = (
    <>
      <Half name="A" bench={a} frame={frame} part={partA} mirror={false} words={wordsA}>
        {mended.shown?.row === frame && <Mended bench={a} joints={mended.shown.joints} part={partA} />}
      </Half>
      {lay === "outline" ? (
        <>
          <Outline bench={b} xy={xb} frame={frameB} part={partB} mirror={mirrored} />
          <p className="absolute right-1.5 bottom-1.5 rounded bg-sheet/90 px-2 py-0.5 text-sm">
            <b className="font-semibold">B</b> {wordsB}
            {mirrored && " · mirrored"} · as an outline
          </p>
        </>
      ) : (
        <Half
          name="B"
          bench={b}
          frame={frameB}
          part={partB}
          mirror={mirrored}
          words={wordsB}
          clip={lay === "beside" ? undefined : lay === "edge" ? edge : 0}
        />
      )}
    </>
  );
  const still = () => {
    const found = (name: string) => stage.current?.querySelector<HTMLCanvasElement>(`[data-testid=half-${name}]`);
    const drawn = (of: Element | null | undefined, mirror: boolean): Layer[] =>
      [...(of?.querySelectorAll<SVGSVGElement>(":scope > svg") ?? [])].map((from) => ({ from, mirror }));
    const [one, other] = [found("A"), found("B")];
    if (!one) return;
    const ofA: Layer[] = [{ from: one, mirror: false }, ...drawn(one.parentElement, false)];
    const how = { share: lay === "over" ? 0.5 : 1, edge: lay === "edge" ? edge / 100 : 0 };
    const ofB: Layer[] = other ? [{ from: other, mirror: mirrored, ...how }] : drawn(stage.current, mirrored);
    const words = [`A ${wordsA}`, `B ${wordsB}${mirrored ? " · mirrored" : ""}${other ? "" : " · as an outline"}`];
    const panes =
      lay === "beside"
        ? [
            { layers: ofA, words: words.slice(0, 1) },
            { layers: ofB, words: words.slice(1) },
          ]
        : [{ layers: [...ofA, ...ofB], words }];
    saveStill(panes).catch((e: Error) => setTold(e.message));
  };
  const film = {
    ...query,
    mirror: mirrored,
    locked: moment === null,
    event: moment ?? "start",
    sized,
    speed: player.speed,
    lay,
    edge: edge / 100,
  };
  return (
    <div className="mx-auto grid max-w-[100rem] gap-3 p-3 lg:grid-cols-[minmax(0,1fr)_24rem]">
      <header className="flex flex-wrap items-center gap-2 lg:col-span-2">
        <Link
          to="/runs/$run"
          params={{ run: asked.a }}
          search={{ at: t }}
          aria-label="Back to the Bench"
          className="grid size-9 place-items-center rounded hover:bg-tint"
        >
          <ChevronLeft aria-hidden className="size-5" />
        </Link>
        <h1 className="mr-auto text-xl">
          {a.run.rider.name}
          {asked.a === asked.b ? ": two of one run" : ` beside ${b.run.rider.name}`}
        </h1>
      </header>
      <section aria-label="Both" className="grid content-start gap-2">
        <div ref={stage} className={lay === "beside" ? "grid gap-2 sm:grid-cols-2" : "relative"}>
          {lay === "over" ? <div className="[&>figure:last-child]:opacity-50">{halves}</div> : halves}
        </div>
        {lay === "edge" && (
          <input
            type="range"
            aria-label="Edge between A and B"
            min={0}
            max={100}
            value={edge}
            onChange={(e) => setEdge(Number(e.target.value))}
          />
        )}
        <BothRibbons a={a} b={b} same={same} mirror={mirrored} moves={moves} frame={frame} onGo={go} />
        <input
          type="range"
          aria-label="Frame of A"
          min={0}
          max={a.t.length - 1}
          value={frame}
          onChange={(e) => go(Number(e.target.value))}
        />
        <div className="flex flex-wrap items-center gap-1.5">
          <Steps player={player} />
          <Select
            aria-label="Speed"
            style={{ width: "8rem" }}
            value={player.speed}
            onChange={(e) => player.setSpeed(Number(e.target.value))}
          >
            {SPEEDS.map((s) => (
              <option key={s} value={s}>
                {s === 1 ? "true speed" : `1/${1 / s} speed`}
              </option>
            ))}
          </Select>
          <Movement
            same={same[0]}
            moves={moves}
            offset={offset}
            onMoves={move}
            onOffset={(typed) => {
              setOffset(typed);
              if (Number.isFinite(Number(typed))) lookAt(moves, Number(typed));
            }}
          />
          <Select
            aria-label="How they lie"
            style={{ width: "11rem" }}
            value={lay}
            onChange={(e) => setLay(e.target.value as Lay)}
          >
            <option value="beside">beside each other</option>
            <option value="over">one over the other</option>
            <option value="edge">with a moving edge</option>
            <option value="outline">B as an outline over A</option>
          </Select>
          <Button aria-pressed={sized} className={sized ? "bg-tint" : ""} onClick={() => setSized(!sized)}>
            Same size (N)
          </Button>
          <Button onClick={still}>Still</Button>
          <Button aria-pressed={!!mended.words} className={mended.words ? "bg-tint" : ""} onClick={mended.toggle}>
            Mended A (G)
          </Button>
          {/* Another pair, or another way to show it, is another film. */}
          <KeepFilm key={JSON.stringify(film)} asked={film} />
          <Button aria-pressed={!!asked.mirror} className={asked.mirror ? "bg-tint" : ""} onClick={mirror}>
            Mirror B (M)
          </Button>
          <span className="text-soft" data-testid="pair-clock">
            A {t.toFixed(3)} s · B {(b.t[frameB] ?? 0).toFixed(3)} s
          </span>
        </div>
        {mended.words && (
          <p role="status" className="text-sm text-soft">
            A: {mended.words}
          </p>
        )}
        {atMoment.error && moment !== null && (
          <p role="alert" className="text-bad">
            {atMoment.error.message}
          </p>
        )}
        {told && (
          <p role="alert" className="rounded border border-bad px-3 py-1.5 text-bad">
            {told}
          </p>
        )}
        {drawn && curves.data && units && <Curves curves={curves.data} at={share} />}
        {chosen && !drawn && <p className="text-sm text-soft">This is read once a unit; there is no curve of it.</p>}
        {drawn && curves.error && <p className="text-sm text-soft">{curves.error.message}</p>}
      </section>
      <Differences
        pair={pair}
        rows={rows}
        when={moment === null ? "" : momentWords(moment, seconds)}
        chosen={chosen}
        onFirst={(at) => {
          if (at.frame_a !== null) go(at.frame_a);
          else toPhase(at);
        }}
        onRow={(row) => {
          setPicked(row);
          toPhase(row);
        }}
      />
    </div>
  );
}

/** Where a time lies in a unit whose phases are all equally long, 0 to 1. */
function shareOf(edges: readonly number[], t: number): number {
  const n = edges.length - 1;
  for (let k = 1; k <= n; k++)
    if (t <= edges[k]!)
      return Math.max(0, (k - 1 + (t - edges[k - 1]!) / Math.max(edges[k]! - edges[k - 1]!, 1e-9)) / n);
  return 1;
}
