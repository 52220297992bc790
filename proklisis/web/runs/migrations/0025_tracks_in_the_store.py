"""Tracks and reviews leave the database for the store that files are kept in; undone, they come back."""

from __future__ import annotations

from typing import Any

import proklisis.web.runs.models
from django.core.files.base import ContentFile
from django.db import migrations, models

#: Model, and the way to its run.
MOVED = (("TrackSet", "run_id"), ("KeptReview", "result__run_id"))


def out(apps: Any, schema_editor: Any) -> None:
    for name, way in MOVED:
        model = apps.get_model("runs", name)
        for pk, run in model.objects.values_list("pk", way):
            row = model.objects.get(pk=pk)
            storage = model._meta.get_field("file").storage
            place = proklisis.web.runs.models._place("tracks", run, "packed.npz")
            kept = storage.save(place, ContentFile(bytes(row.data)))
            model.objects.filter(pk=pk).update(file=kept, data=None)


def back(apps: Any, schema_editor: Any) -> None:
    for name, _ in MOVED:
        model = apps.get_model("runs", name)
        storage = model._meta.get_field("file").storage
        for pk, place in model.objects.values_list("pk", "file"):
            with storage.open(place, "rb") as f:
                model.objects.filter(pk=pk).update(data=f.read())


class Migration(migrations.Migration):
    dependencies = [("runs", "0024_presses")]
    operations = [
        *(
            operation
            for name, _ in MOVED
            for operation in (
                migrations.AddField(
                    name, "file",
                    models.FileField(default="", max_length=200, upload_to=proklisis.web.runs.models.tracks_path),
                    preserve_default=False,
                ),
                migrations.AlterField(name, "data", models.BinaryField(null=True)),
            )
        ),
        migrations.RunPython(out, back),
        *(migrations.RemoveField(name, "data") for name, _ in MOVED),
    ]  # fmt: skip
