import { useState } from "react";

import { api, need } from "../api/client";
import { FilmJob } from "../ui/FilmJob";

/** A Telling as a film to take away, with its captions on the picture or beside it. */
export function AsFilm({ run }: { run: number }) {
  const [burnt, setBurnt] = useState(true);
  return (
    <div className="flex flex-wrap items-center gap-2 px-3 py-2">
      <label className="flex min-h-7 items-center gap-1.5 text-sm">
        <input type="checkbox" checked={burnt} onChange={(e) => setBurnt(e.target.checked)} />
        captions on the picture
      </label>
      <FilmJob
        what={`telling ${run}`}
        label="Make a film (MP4)"
        onAsk={() => need(api.POST("/api/runs/{run}/telling/films", { params: { path: { run } }, body: { burnt } }))}
        onLook={(film) => need(api.GET("/api/runs/{run}/telling/films/{film}", { params: { path: { run, film } } }))}
        onStop={(film) => need(api.DELETE("/api/runs/{run}/telling/films/{film}", { params: { path: { run, film } } }))}
      />
      <a
        href={`/api/runs/${run}/telling/captions`}
        download
        className="rounded border border-line px-3 py-1 font-semibold hover:bg-tint"
      >
        Captions (WebVTT)
      </a>
    </div>
  );
}
