import type { Schemas } from "../api/client";

export type Footage = Schemas["Footage"];
export type CameraPart = Schemas["PatchedCameraRequest"];
export type RiderMark = Schemas["RiderMarkRequest"];
