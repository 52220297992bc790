import { useEffect, useRef, useState } from "react";

import type { Schemas } from "../api/client";

interface Props {
  strip: Schemas["EyeStrip"];
  frame: number;
  label: string;
  children?: React.ReactNode;
}

/** One cell of a strip, as large as there is room; what lies over it is drawn in shares of its side. */
export function StripView({ strip, frame, label, children }: Props) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const [image, setImage] = useState<HTMLImageElement | null>(null);
  useEffect(() => {
    const i = new Image();
    i.onload = () => setImage(i);
    i.src = strip.url;
    return () => {
      i.onload = null;
    };
  }, [strip.url]);
  useEffect(() => {
    const c = canvas.current;
    if (!c || !image) return;
    const px = strip.cell_px;
    const [x, y] = [(frame % strip.columns) * px, Math.floor(frame / strip.columns) * px];
    c.getContext("2d")?.drawImage(image, x, y, px, px, 0, 0, px, px);
    c.dataset.frame = String(frame);
  }, [image, frame, strip]);
  return (
    <div className="relative aspect-square w-full overflow-hidden rounded bg-stage">
      <canvas
        ref={canvas}
        width={strip.cell_px}
        height={strip.cell_px}
        role="img"
        aria-label={label}
        className="size-full"
      />
      {children}
    </div>
  );
}
