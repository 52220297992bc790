import type { Schemas } from "../api/client";

export type Calculator = Schemas["Calculator"];
/** Key → what is typed into its field. */
export type Said = Record<string, string>;
