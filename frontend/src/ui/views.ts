import type { Schemas } from "../api/client";

/** Where a clip is filmed from, in words. */
export const VIEWS: Record<Schemas["ViewEnum"], string> = {
  front: "From the front",
  rear: "From behind",
  side_left: "From the rider’s left",
  side_right: "From the rider’s right",
  above: "From above",
  oblique: "At an angle",
};
