"""What the Bench shows speaks of units: stored results get the new names."""

from django.db import migrations


def rename(apps, schema_editor):
    for result in apps.get_model("runs", "Result").objects.iterator(chunk_size=20):
        b, ribbon = result.bench, result.bench.get("ribbon", {})
        if "turns" not in b:
            continue
        b["unit_plural"], b["units"] = b.get("units", "units"), b.pop("turns")
        ribbon["swing"], ribbon["swing_u"] = ribbon.pop("tilt"), ribbon.pop("tilt_u")
        for reading in b["readings"]:
            reading["unit"] = reading.pop("turn")
        result.save(update_fields=["bench"])


class Migration(migrations.Migration):
    dependencies = [("runs", "0010_measured_once")]
    operations = [migrations.RunPython(rename, migrations.RunPython.noop, elidable=True)]
