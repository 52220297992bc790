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
