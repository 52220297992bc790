import type { Schemas } from "../api/client";

export type Kind = Schemas["Condition"];
export type Given = Record<string, string>;

/** A condition as it is kept: yes or no, a number with a point or a comma, or words. */
function kept(kind: Kind, text: string): string | number | boolean {
  if (kind.takes === "yes_no") return text === "yes";
  const number = Number(text.replace(",", "."));
  return kind.takes === "number" && !Number.isNaN(number) ? number : text;
}

/** The filled-in conditions of a discipline. A rope goes as it was typed; the server reads it. */
export function conditionsOf(given: Given, known: Record<string, Kind>): Record<string, string | number | boolean> {
  const filled = Object.entries(known)
    .map(([key, kind]) => [key, kind, (given[key] ?? "").trim()] as const)
    .filter(([, , text]) => text);
  return Object.fromEntries(
    filled.map(([key, kind, text]) => [kind.takes === "rope" ? "rope" : key, kept(kind, text)]),
  );
}
