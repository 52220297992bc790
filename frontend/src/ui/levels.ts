import type { Schemas } from "../api/client";

export type Level = Schemas["LevelEnum"];
export const LEVELS: Level[] = ["novice", "intermediate", "advanced", "elite"];
