import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useNavigate, useParams, useSearch } from "@tanstack/react-router";
import { ArrowDown, ArrowUp, X } from "lucide-react";
import { useRef, useState, type KeyboardEvent } from "react";

import { bench as benchQuery, turnSheet } from "../api/queries";
import { Bar, Button, Select, SideMark, Trouble, Waiting } from "../ui/parts";
import { OfRun } from "../ui/OfRun";
import { plain, sentence } from "../ui/places";
import { Cell } from "./Cell";
import { NumberIn } from "./NumberIn";
import { inOrder, ofCell, type Arranged, type Order } from "./order";
import { savePicture } from "./picture";

/** Every unit of a run in a row, each phase as a picture with its number. */
export function TurnSheetPage() {
  const { run } = useParams({ from: "/inside/runs/$run/sheet" });
  const bench = useQuery(benchQuery(run));
  const asked = useSearch({ from: "/inside/runs/$run/sheet" });
  const sheet = useQuery({
    ...turnSheet(run, bench.data?.version ?? "", asked.show ?? "", asked.columns ?? []),
    enabled: !!bench.data,
    placeholderData: keepPreviousData,
  });
  const error = bench.error ?? sheet.error;
  if (error) return <Trouble error={error} again={() => void sheet.refetch()} />;
  if (!bench.data || !sheet.data) return <Waiting what="Laying the sheet out" />;
  return <Sheet run={run} rider={bench.data.run.rider.name} got={sheet.data} asked={asked} />;
}

type Got = Awaited<ReturnType<NonNullable<ReturnType<typeof turnSheet>["queryFn"]>>>;

function Sheet({
  run,
  rider,
  got,
  asked,
}: {
  run: number;
  rider: string;
  got: Got;
  asked: { show?: string; columns?: string[] };
}) {
  const go = useNavigate();
  const { sheet, pictures, waiting } = got;
  const [arranged, setArranged] = useState<Arranged>("run");
  const [order, setOrder] = useState<Order | null>(null);
  const [large, setLarge] = useState(false);
  const [told, setTold] = useState("");
  const table = useRef<HTMLTableElement>(null);
  const ask = (next: { show?: string; columns?: string[] }) =>
    void go({ to: "/runs/$run/sheet", params: { run }, search: { ...asked, ...next }, replace: true });
  const columns = sheet.columns.map((c) => c.key);
  const rows = inOrder(sheet, arranged, order);
  const hasSides = sheet.rows.some((r) => r.side !== null);
  const sort = (by: string) =>
    setOrder(order?.by !== by ? { by, down: true } : order.down ? { by, down: false } : null);
  const words = new URLSearchParams([
    ...(sheet.key === null ? [] : [["show", sheet.key]]),
    ...columns.map((c) => ["columns", c]),
  ]);
  const move = (e: KeyboardEvent) => {
    const by = { ArrowLeft: [0, -1], ArrowRight: [0, 1], ArrowUp: [-1, 0], ArrowDown: [1, 0] }[e.key];
    const [r, c] = ((e.target as HTMLElement).dataset.place ?? "").split(",").map(Number);
    if (!by || r === undefined || c === undefined) return;
    const to = table.current?.querySelector<HTMLElement>(`[data-place="${r + by[0]!},${c + by[1]!}"]`);
    if (!to) return;
    e.preventDefault();
    to.focus();
  };
  const head = (by: string, name: string) => (
    <button
      type="button"
      className="inline-flex items-center gap-1 font-semibold hover:underline"
      onClick={() => sort(by)}
    >
      {name}
      {order?.by === by &&
        (order.down ? <ArrowDown aria-hidden className="size-4" /> : <ArrowUp aria-hidden className="size-4" />)}
    </button>
  );
  const sorted = (by: string) => (order?.by !== by ? "none" : order.down ? "descending" : "ascending");
  return (
    <div className="grid grid-cols-1 gap-3 p-3">
      <OfRun
        run={run}
        title={
          <>
            {sentence(sheet.unit_plural)} of {rider}
            {sheet.title && <span className="text-soft"> · {sheet.title}</span>}
          </>
        }
      >
        <div className="no-print flex flex-wrap items-center gap-1.5">
          {sheet.may_show.length > 0 && (
            <Select
              aria-label="What the cells show"
              style={{ width: "15rem" }}
              value={sheet.key ?? ""}
              onChange={(e) => ask({ show: e.target.value })}
            >
              {sheet.may_show.map((m) => (
                <option key={m.key} value={m.key}>
                  {m.title}
                </option>
              ))}
            </Select>
          )}
          <Select
            aria-label="Add a column"
            style={{ width: "11rem" }}
            value=""
            onChange={(e) => e.target.value && ask({ columns: [...columns, e.target.value] })}
          >
            <option value="">Add a column…</option>
            {sheet.may_add
              .filter((m) => !columns.includes(m.key))
              .map((m) => (
                <option key={m.key} value={m.key}>
                  {m.title}
                </option>
              ))}
          </Select>
          {hasSides && (
            <Select
              aria-label="How the rows lie"
              style={{ width: "11rem" }}
              value={arranged}
              onChange={(e) => setArranged(e.target.value as Arranged)}
            >
              <option value="run">as they came</option>
              <option value="sides">one side, then the other</option>
              <option value="stacked">left and right by turns</option>
            </Select>
          )}
          <Button aria-pressed={large} className={large ? "bg-tint" : ""} onClick={() => setLarge(!large)}>
            Larger
          </Button>
          <Button onClick={() => print()}>Print</Button>
          <a
            href={`/api/runs/${run}/turn-sheet/table?${words.toString()}`}
            download
            className="rounded border border-line px-3 py-1 font-semibold hover:bg-tint"
          >
            Table (CSV)
          </a>
          <Button
            disabled={waiting > 0 || rows.length === 0}
            title={waiting > 0 ? "Its pictures are still being made" : undefined}
            onClick={() =>
              void savePicture(
                `${sentence(sheet.unit_plural)} of ${rider}${sheet.title ? ` · ${sheet.title}` : ""}`,
                sheet,
                rows.map((r) => ({ row: r, pictures: r.cells.map((_, k) => pictures[ofCell(sheet, r.n, k)]!) })),
              ).catch((e: Error) => setTold(e.message))
            }
          >
            One picture
          </Button>
        </div>
      </OfRun>
      {told && (
        <p role="alert" className="rounded border border-bad px-3 py-1.5 text-bad">
          {told}
        </p>
      )}
      {waiting > 0 && (
        <div role="status" className="no-print grid max-w-sm gap-1 text-sm text-soft">
          {pictures.length - waiting} of {pictures.length} pictures are made
          <Bar share={(pictures.length - waiting) / pictures.length} label="Pictures made" />
        </div>
      )}
      {rows.length === 0 ? (
        <p className="p-6 text-soft">
          No {sheet.unit_plural} were found on this run. Cut it on the Bench with C, then come back.
        </p>
      ) : (
        <div className="overflow-x-auto">
          {/* eslint-disable-next-line jsx-a11y/no-noninteractive-element-interactions -- arrows go from cell to cell */}
          <table ref={table} onKeyDown={move} className="border-separate border-spacing-1">
            <thead>
              <tr>
                <th scope="col" aria-sort={sorted("n")} className="px-1 text-left">
                  {head("n", sentence(sheet.unit))}
                </th>
                {sheet.phases.map((p) => (
                  <th key={p} scope="col" aria-sort={sorted(`phase:${p}`)} className="px-1 text-left">
                    {head(`phase:${p}`, sentence(p))}
                  </th>
                ))}
                {sheet.columns.map((c) => (
                  <th
                    key={c.key}
                    scope="col"
                    aria-sort={sorted(c.key)}
                    className="max-w-36 px-1 text-left align-bottom"
                  >
                    <span className="flex items-start gap-1">
                      {head(c.key, c.title)}
                      <button
                        type="button"
                        aria-label={`Take the column ${c.title} away`}
                        className="no-print rounded p-0.5 hover:bg-tint"
                        onClick={() => ask({ columns: columns.filter((k) => k !== c.key) })}
                      >
                        <X aria-hidden className="size-4" />
                      </button>
                    </span>
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {rows.map((row, y) => (
                <tr key={row.n}>
                  <th scope="row" className="pr-2 text-left align-top font-normal">
                    <b className="text-lg">{row.n}</b>
                    {row.side && (
                      <span className="block">
                        <SideMark side={row.side} />
                      </span>
                    )}
                    {row.finest_side && <span className="block text-sm text-soft">{plain(row.finest_side)}</span>}
                  </th>
                  {sheet.phases.map((p, x) => {
                    const k = row.cells.findIndex((c) => c.phase === p);
                    return (
                      <td key={p} className="p-0 align-top">
                        {k < 0 ? (
                          <span className="text-sm text-soft">not shown</span>
                        ) : (
                          <Cell
                            run={run}
                            cell={row.cells[k]!}
                            picture={pictures[ofCell(sheet, row.n, k)]!}
                            name={`${sheet.unit} ${row.n}, ${plain(p)}`}
                            place={`${y},${x}`}
                            large={large}
                          />
                        )}
                      </td>
                    );
                  })}
                  {sheet.columns.map((c) => (
                    <td key={c.key} className="px-2 align-top whitespace-nowrap">
                      <NumberIn read={c.values[sheet.rows.indexOf(row)] ?? null} />
                    </td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
    </div>
  );
}
