import { CircleQuestionMark } from "lucide-react";
import { useId } from "react";

import type { Schemas } from "../api/client";
import { Input, Select } from "../ui/parts";
import type { Calculator, Said } from "./types";

type Row = Schemas["ReckonedRow"];
type Field = Calculator["fields"][number];

interface Props {
  calc: Calculator;
  said: Said;
  unknown: string;
  rows: Row[];
  /** The rows answer what was typed before. */
  late: boolean;
  /** What an open run has for each field. */
  take: Record<string, Schemas["FromRunRow"][]>;
  onType: (key: string, text: string) => void;
  onAsk: (key: string) => void;
}

/** A row for each quantity: what is typed, and what follows. */
export function Fields(props: Props) {
  return (
    <div className="grid gap-x-3 gap-y-2">
      {props.calc.fields.map((field) => (
        <One key={field.key} field={field} row={props.rows.find((r) => r.key === field.key)} {...props} />
      ))}
    </div>
  );
}

function One({ field, row, said, unknown, take, late, onType, onAsk }: Props & { field: Field; row: Row | undefined }) {
  const id = useId();
  const text = said[field.key] ?? "";
  const rows = take[field.key] ?? [];
  const follows = row && !row.given;
  return (
    <div
      className={`grid grid-cols-[minmax(0,1fr)_9rem_2rem] items-center gap-x-2 rounded px-2 py-0.5 sm:grid-cols-[minmax(0,1fr)_9rem_minmax(0,8.5rem)_2rem] ${
        follows && !row.assumed ? "bg-tint" : ""
      }`}
    >
      <label htmlFor={id} className="leading-tight">
        {field.title}
        {field.unit && <span className="text-soft">, {field.unit}</span>}
      </label>
      {field.takes === "choice" ? (
        <Select id={id} value={text} onChange={(e) => onType(field.key, e.target.value)}>
          <option value="">{field.default ? plain(field.default) : "not said"}</option>
          {field.choices
            .filter((c) => c !== field.default)
            .map((c) => (
              <option key={c} value={c}>
                {plain(c)}
              </option>
            ))}
        </Select>
      ) : (
        <Input
          id={id}
          value={text}
          inputMode="text"
          autoComplete="off"
          maxLength={200}
          aria-describedby={row ? `${id}-is` : undefined}
          onChange={(e) => onType(field.key, e.target.value)}
        />
      )}
      <output
        id={`${id}-is`}
        htmlFor={id}
        aria-busy={late}
        className={`${late ? "opacity-40 transition-opacity delay-200" : ""} tabular-nums max-sm:order-last max-sm:col-span-3 ${follows && !row.assumed ? "font-semibold" : "text-soft"}`}
      >
        {row && (!row.given || row.pm || differs(text, row)) && (
          <>
            {row.assumed ? "taken as " : "= "}
            {row.words}
            {row.pm && ` ± ${row.pm}`}
            {row.unit === "°" ? "°" : row.unit && ` ${row.unit}`}
          </>
        )}
      </output>
      {field.takes === "number" ? (
        <button
          type="button"
          aria-pressed={unknown === field.key}
          aria-label={`Ask for ${field.title.toLowerCase()}`}
          title="Ask for this"
          className="grid size-8 place-items-center rounded text-soft hover:bg-tint aria-pressed:bg-deep aria-pressed:text-on-deep"
          onClick={() => onAsk(field.key)}
        >
          <CircleQuestionMark aria-hidden className="size-4" />
        </button>
      ) : (
        <span />
      )}
      {rows.length > 0 && (
        <Select
          aria-label={`${field.title} from this run`}
          className="order-last col-span-full mt-0.5 text-sm"
          value=""
          onChange={(e) => onType(field.key, e.target.value)}
        >
          <option value="">From this run: {rows.length === 1 ? rows[0]!.says : `${rows.length} to choose from`}</option>
          {rows.map((r, k) => (
            <option key={k} value={r.text}>
              {r.says}
            </option>
          ))}
        </Select>
      )}
    </div>
  );
}

/** Whether what was understood says more than what was typed. */
const differs = (text: string, row: Row) => text.trim().replace(",", ".") !== row.words && !text.includes(row.words);

const plain = (id: string) => id.replaceAll("_", " ");
