import { ChevronLeft, ChevronRight, Pause, Play } from "lucide-react";

import { Button } from "./parts";
import type { Player } from "../video/usePlayer";

/** One frame back, play or pause, one frame on. */
export const Steps = ({ player: { step, playing, setPlaying } }: { player: Player }) => (
  <>
    <Button onClick={() => step(-1)} aria-label="One frame back">
      <ChevronLeft aria-hidden className="size-4" />
    </Button>
    <Button onClick={() => setPlaying(!playing)} aria-label={playing ? "Pause" : "Play"}>
      {playing ? <Pause aria-hidden className="size-4" /> : <Play aria-hidden className="size-4" />}
    </Button>
    <Button onClick={() => step(1)} aria-label="One frame on">
      <ChevronRight aria-hidden className="size-4" />
    </Button>
  </>
);
