"""Everything that is kept of a rider, as one file they can be given."""

from __future__ import annotations

import json
import tempfile
import zipfile
from typing import IO, Any

from django.core.serializers.json import DjangoJSONEncoder
from django.db.models import FileField, Model
from django.db.models.fields.files import FieldFile
from django.http import FileResponse
from django.utils.text import slugify

from proklisis.web.riders.models import Rider
from proklisis.web.runs.models import Run
from proklisis.web.stored import on_disk

#: Columns that are written beside as files of their own, or are another's business.
LEFT_OUT = frozenset({"data", "index", "club", "token"})


def as_file(rider: Rider) -> FileResponse:
    """All of it as an answer to be saved."""
    bag = tempfile.TemporaryFile(prefix="proklisis-")  # noqa: SIM115  (the answer closes it)
    export(rider, bag)
    bag.seek(0)
    return FileResponse(
        bag,
        as_attachment=True,
        filename=f"{slugify(rider.name) or 'rider'}.zip",
        content_type="application/zip",
    )


def export(rider: Rider, out: IO[bytes]) -> None:
    """Write a ZIP of a rider's rows as JSON with the clips and pictures that belong to them."""
    with zipfile.ZipFile(out, "w", zipfile.ZIP_STORED) as bag:
        whole: dict[str, Any] = {
            "rider": _row(rider),
            "accounts": [
                {
                    "kind": a.kind,
                    "name": a.user.first_name,
                    "since": a.since,
                    "ended_at": a.ended_at,
                }
                for a in rider.accounts.select_related("user")
            ],
            "consents": [_row(c) for c in rider.consents.all()],
            "reckonings": [_row(x) for x in rider.reckonings.all()],
            "sent": [
                {**_row(x), "clips": [_row(c) for c in x.sent.all()]} for x in rider.senders.all()
            ],
            "runs": [],
        }
        for run in Run.objects.filter(rider=rider).select_related("clip", "result"):
            folder = f"runs/{run.pk}"
            kept: dict[str, Any] = {**_row(run), "corrections": [_row(e) for e in run.edits.all()]}
            for name in ("clip", "result", "script", "telling", "prescribed"):
                if hasattr(run, name):
                    kept[name] = _row(getattr(run, name))
            kept["reckonings"] = [_row(x) for x in run.reckonings.all()]
            whole["runs"].append(kept)
            video = _video(run)
            if video:
                with on_disk(video) as path:
                    bag.write(path, f"{folder}/{run.clip.name}")
            if hasattr(run, "script"):
                kept["links"] = [
                    {"made": s.made, "expires": s.expires, "withdrawn": s.withdrawn}
                    for s in run.script.shares.all()
                ]
                for name in ("ticks", "lines", "mails", "clips_back"):
                    kept[name] = [_row(x) for x in getattr(run.script, name).all()]
                for picture in run.script.pictures.all():
                    with on_disk(picture.image) as path:
                        bag.write(path, f"{folder}/picture-{picture.order + 1}.jpg")
            for recording in run.recordings.all():
                name = f"{folder}/recording-{recording.pk}.{recording.kind.rpartition('/')[2]}"
                bag.writestr(name, recording.content())
            for film in run.told_films.exclude(file=""):
                with on_disk(film.file) as path:
                    bag.write(path, f"{folder}/telling-{film.pk}.mp4")
        bag.writestr("rider.json", json.dumps(whole, cls=DjangoJSONEncoder, indent=1))


def _video(run: Run) -> FieldFile | None:
    """The video of a run; of a film that shows others too, only the part that is this run's."""
    if not hasattr(run, "clip"):
        return None
    return run.clip.source if run.clip.to_s is None else run.clip.working


def _row(row: Model) -> dict[str, Any]:
    """A row's own columns, without files and what is packed."""
    fields = [
        f
        for f in row._meta.concrete_fields
        if f.name not in LEFT_OUT and not isinstance(f, FileField)
    ]
    return {f.name: getattr(row, f.attname) for f in fields}
