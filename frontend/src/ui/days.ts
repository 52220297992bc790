/** A day of the server's, `2026-12-10`, as it is said where the reader lives: "Thursday 10 December 2026". */
export function day(iso: string, locale?: string): string {
  const [year, month, date] = iso.split("-").map(Number);
  return new Intl.DateTimeFormat(locale ?? navigator.language, {
    weekday: "long",
    day: "numeric",
    month: "long",
    year: "numeric",
  }).format(new Date(year!, month! - 1, date));
}

/** A moment of the server's as it is said where the reader lives: "Thu 10 December, 18:00". */
export const moment = (iso: string, locale?: string) =>
  new Intl.DateTimeFormat(locale ?? navigator.language, {
    weekday: "short",
    day: "numeric",
    month: "long",
    hour: "2-digit",
    minute: "2-digit",
  }).format(new Date(iso));
