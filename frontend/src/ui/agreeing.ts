import type { Schemas } from "../api/client";

export type Kind = Schemas["AgreedRequest"]["kind"];
/** What each kind is called, and what holds while nobody has said anything. */
export const KINDS: [Kind, string, string][] = [
  ["analyse", "Clips are judged", "nobody has said; clips are judged"],
  ["share", "The answer is shared with the rider", "nobody has said; a grown-up’s is shared, a minor’s is not"],
  ["group", "Clips are shown to other riders", "nobody has said; they are not shown"],
  ["reference", "A run is kept as a reference", "nobody has said; asked when one is kept"],
];
/** What ends with a no. */
export const ENDS: Record<Kind, string> = {
  analyse: "Nothing of theirs is followed or judged any more, every link and reference ends at once.",
  share: "Every link that was handed out ends at once.",
  group: "Films that show them to others are shown no more.",
  reference: "Their runs are references no more.",
};
