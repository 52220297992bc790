"""Frames of the club's own references as items: a line is drawn that was measured within its ±.

A reference is kept with its rider's consent and an end; its items are seen by its own club and go with it.
"""

from __future__ import annotations

import io
from datetime import date

import numpy as np
from django.core.files.base import ContentFile
from django.db.models import Count, F, Q, QuerySet
from django.utils import timezone
from PIL import Image

from proklisis.core.eye.lines import line_words, tilt_of
from proklisis.core.measures.lines import drawable, line_points
from proklisis.core.measures.registry import REGISTRY
from proklisis.core.rider.mass import MIDPOINTS
from proklisis.core.tracks.tracks import Tracks
from proklisis.core.uncertainty import digits, propagate
from proklisis.web.analysis.compared import compared
from proklisis.web.analysis.payload import drawn_points
from proklisis.web.clips import crops
from proklisis.web.clubs.models import Club
from proklisis.web.errors import Conflict
from proklisis.web.eye.models import EyeItem
from proklisis.web.references.models import Reference
from proklisis.web.runs.models import Run

#: Items of one reference.
EACH = 4
#: Lines that are known no better than this are not asked, degrees (U = 2u).
WORST_DEG = 4.0
#: Side of the picture, pixels.
SIDE_PX = 480


def open_to(club: Club | int, today: date) -> Q:
    """Items that a club may be shown: simulated ones, and those of its own references while they last."""
    return Q(reference=None) | Q(
        reference__club=club, reference__until__gte=today, reference__run__removed_at=None, reference__run__rider__removed_at=None,
        # What was corrected since is measured otherwise.
        reference__run__result__stale=False, made__gte=F("reference__run__result__made"),
    )  # fmt: skip


def forget_corrected() -> None:
    """Let items go whose run was corrected since; its frames are asked again as they are measured now."""
    old = EyeItem.objects.filter(
        reference__isnull=False, made__lt=F("reference__run__result__made")
    )
    Reference.objects.filter(eye_items__in=old).update(eye_done=False)
    for item in old:
        item.delete()


def short() -> QuerySet[Reference]:
    """References in force of which there are few items."""
    return (
        Reference.objects.filter(
            until__gte=timezone.localdate(), run__removed_at=None, run__rider__removed_at=None, run__result__isnull=False, fault=""
        ).annotate(n=Count("eye_items")).filter(n__lt=EACH, eye_done=False)
    )  # fmt: skip


def make_next() -> EyeItem | None:
    """One more item of a reference; None where its pictures are not cut yet, or there is nothing to ask."""
    forget_corrected()
    for reference in short():
        made = _make(reference)
        if made is not None:
            return made
    return None


def _make(reference: Reference) -> EyeItem | None:
    row = Run.objects.select_related("rider", "clip", "result").get(pk=reference.run_id)
    try:
        review = compared(row).review
    except Conflict:
        return None
    have = set(reference.eye_items.values_list("topic", flat=True))
    places = {} if review is None else {
        r.id: r for r in review.readings
        if r.id not in have and r.segment is not None and r.t is not None and drawable(r.id)
    }  # fmt: skip
    waiting = False
    for measure, reading in places.items():
        assert review is not None and reading.t is not None
        tracks = review.tracks
        at = int(np.abs(tracks.t - reading.t).argmin())
        outside = next((u.outside_foot or "l" for u in review.units if u.n == reading.segment), "l")
        wanted = line_points(measure, outside, reading.limb)
        names, xy = drawn_points(tracks)
        if not set(wanted) <= set(names):
            continue
        px = np.array([xy[at, names.index(n)] for n in wanted])
        u = [_doubt(tracks, at, n) for n in wanted]
        if not np.isfinite(px).all() or not np.isfinite(u).all():
            continue
        known = propagate(lambda *x: tilt_of(np.reshape(x, (-1, 2)).tolist()), px.ravel().tolist(), np.repeat(u, 2).tolist())  # fmt: skip
        if 2 * known.u > WORST_DEG:
            continue
        crop = crops.asked(row, [int(tracks.frames[at])]).get(int(tracks.frames[at]))
        if crop is None or crop.problem:
            continue
        if not crop.file:
            waiting = True
            continue
        line = [[float((p[k] - crop.box[k]) / crop.box[2 + k]) for k in (0, 1)] for p in px]
        with crop.file.open("rb") as file:
            return _keep(reference, row, measure, wanted, line, known.u, crop.pk, file.read())
    if not waiting:
        Reference.objects.filter(pk=reference.pk).update(eye_done=True)
    return None


def _doubt(tracks: Tracks, at: int, name: str) -> float:
    """Pixels of standard uncertainty of a landmark or of the middle of two."""
    parts = MIDPOINTS.get(name, (name,))
    u = [float(tracks.u[at, tracks.names.index(p)]) for p in parts if p in tracks.names]
    return float(np.sqrt(np.sum(np.square(u)))) / len(u) if len(u) == len(parts) else float("nan")


def _keep(reference: Reference, row: Run, measure: str, names: list[str], line: list[list[float]], u: float, number: int, jpeg: bytes) -> EyeItem:  # fmt: skip
    picture = Image.open(io.BytesIO(jpeg)).convert("RGB").resize((SIDE_PX, SIDE_PX))
    out = io.BytesIO()
    picture.save(out, "WEBP", quality=80)
    deg = tilt_of(line)
    what = "Bend" if len(line) == 3 else "Tilt"
    item = EyeItem(
        exercise="angle", discipline=row.discipline, level=row.level, view=str(row.result.sheet.get("clip", {}).get("view") or row.view), topic=measure,
        size=1.0, seed=number, reference=reference,
        question={"ask": f"Draw the line for {REGISTRY[measure].title.lower()}: {line_words(names)}.", "points": len(line), "measure": measure},
        truth={"line": line, "deg": deg, "u": u, "says": f"{what} in the picture, as measured: {digits(deg, u)} ± {digits(2 * u, u)}°."},
        strips=[{"count": 1, "columns": 1, "cell_px": SIDE_PX, "step_s": 0.0}],
    )  # fmt: skip
    item.first.save(f"{number}.webp", ContentFile(out.getvalue()), save=False)
    item.save()
    return item
