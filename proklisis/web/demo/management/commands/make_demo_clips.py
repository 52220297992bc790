"""Render the demo's clips again (about a minute each) and track those that are ready at once."""

from __future__ import annotations

from typing import Any

from django.core.management.base import BaseCommand

from proklisis.core.tracks.tracks import ClipFacts, imported
from proklisis.footage.follow import follow
from proklisis.footage.probe import probe
from proklisis.simulate.clip import write_clip
from proklisis.simulate.run import simulate
from proklisis.simulate.session import make_film
from proklisis.web.demo.cast import ALIKE, CAST, CLIPS, LAPS, SEASON
from proklisis.web.runs.blobs import pack


class Command(BaseCommand):
    help = __doc__

    def add_arguments(self, parser: Any) -> None:
        parser.add_argument("--only", help="the key of one rider, or of the session film")

    def handle(self, *args: Any, **options: Any) -> None:
        CLIPS.mkdir(exist_ok=True)
        if options["only"] in (None, LAPS.key):
            riders = [next(p for p in CAST if p.key == key).outfit() for key in LAPS.riders]
            make_film(
                CLIPS / f"{LAPS.key}.mp4",
                LAPS.seed,
                LAPS.discipline,
                LAPS.goes,
                len(riders),
                riders,
                LAPS.faults,
            )
        for part in (*CAST, *ALIKE, *(again.part for again in SEASON)):
            if options["only"] not in (None, part.key):
                continue
            sim = simulate(
                part.discipline, part.faults, level=part.level, view=part.view or None, seed=part.seed,  # type: ignore[arg-type]
                stature_m=part.height_cm / 100, units=part.units, fps=part.fps, body=part.body,
            )  # fmt: skip
            path = CLIPS / f"{part.key}.mp4"
            write_clip(
                sim,
                path,
                part.outfit(),
                part.seed,
                crf=29 if part.handed_in else 24,
                numbered=False,
            )
            self.stdout.write(f"{path.name}: {path.stat().st_size / 1e6:.1f} MB")
            if part.handed_in:
                path.with_suffix(".npz").write_bytes(pack(imported(sim.tracks)))
            elif part.ready:
                clip = probe(path)
                tracks = follow(clip, ClipFacts(fps=clip.fps, view=part.view), part.height_cm / 100)  # type: ignore[arg-type]
                path.with_suffix(".npz").write_bytes(pack(tracks))
