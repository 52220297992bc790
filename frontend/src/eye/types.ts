import type { Schemas } from "../api/client";

export type Item = Schemas["EyeItem"];
export type Scored = Schemas["Scored"];
export type Given = Schemas["GivenRequest"];

export const EXERCISES: Record<string, string> = {
  frame: "Stop at the moment",
  angle: "Draw the line",
  better: "The better one",
  fault: "What is wrong",
  cause: "What causes what",
  cue: "One cue",
  side: "The weaker side",
  view: "Can it be told from here",
};
