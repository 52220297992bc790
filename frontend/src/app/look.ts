/** Day and night looks, kept in this browser. */
export type Look = "day" | "night";
const KEY = "proklisis-look";

export const currentLook = (): Look => (document.documentElement.dataset.look === "night" ? "night" : "day");

export function applyLook(look?: Look): Look {
  const kept = localStorage.getItem(KEY);
  const dark = matchMedia("(prefers-color-scheme: dark)").matches;
  const chosen: Look = look ?? (kept === "night" || kept === "day" ? kept : dark ? "night" : "day");
  document.documentElement.dataset.look = chosen;
  if (look) localStorage.setItem(KEY, look);
  return chosen;
}
