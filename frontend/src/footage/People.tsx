import { useEffect, useRef } from "react";

import type { Schemas } from "../api/client";
import type { FrameSource } from "../video/frames";
import { paint } from "../video/paint";
import { Button } from "../ui/parts";
import type { Footage } from "./types";

interface Props {
  footage: Footage;
  source: FrameSource;
  busy: boolean;
  onChoose: (who: number) => void;
}

/** Everybody in the picture, to say which of them the run is of. */
export function People({ footage, source, busy, onChoose }: Props) {
  const { people, chosen, run } = footage;
  if (people.length < 2) return null;
  return (
    <section aria-labelledby="people" className="rounded border border-line bg-sheet p-3">
      <h2 id="people" className="text-base">
        Which of them is {run.rider.name}?
      </h2>
      <p className="mb-2 text-sm text-soft">
        Choosing another follows them through the clip. Corrections belong to the one they were made on and come back
        with them. Somebody who is not here can be pointed at in the picture above.
      </p>
      <ul className="flex flex-wrap gap-3">
        {people.map((p, k) => (
          <li key={k} className="grid gap-1">
            <Crop
              person={p}
              source={source}
              clip={run.clip!}
              words={`person ${k + 1}${p.by_hand ? ", pointed at," : ","} frame ${p.frame}`}
            />
            {k === chosen ? (
              <b className="py-1 text-center font-semibold">Followed</b>
            ) : (
              <Button disabled={busy} onClick={() => onChoose(k)} aria-label={`Follow person ${k + 1}`}>
                Follow
              </Button>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}

function Crop({
  person,
  source,
  clip,
  words,
}: {
  person: Schemas["Person"];
  source: FrameSource;
  clip: NonNullable<Schemas["Run"]["clip"]>;
  words: string;
}) {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    let current = true;
    const drawn = source.frame(person.frame).then((picture) => {
      if (!current || !canvas.current) return;
      const scale = (clip.play_width ?? 1) / (clip.width ?? 1);
      const [x0, y0, x1, y1] = person.box.map((v) => v * scale) as [number, number, number, number];
      const half = Math.max(x1 - x0, y1 - y0) * 0.6;
      return paint(
        canvas.current,
        picture,
        { x: (x0 + x1) / 2 - half, y: (y0 + y1) / 2 - half, w: 2 * half, h: 2 * half },
        () => current,
      );
    });
    // A picture that cannot be shown is told beside the camera's marks.
    drawn.catch(() => undefined);
    return () => {
      current = false;
    };
  }, [person, source, clip]);
  return <canvas ref={canvas} width={160} height={160} className="rounded bg-tint" role="img" aria-label={words} />;
}
