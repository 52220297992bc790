"""A backup is brought back on an empty machine, and every verdict is the same."""

from __future__ import annotations

import hashlib
import json
import os
import shutil
import subprocess
import sys
from pathlib import Path

import pytest
from django.core.management import CommandError, call_command
from django.db import connection

from proklisis.web.analysis.reviewing import reviewed
from proklisis.web.watching.backups import FILES, LIST, backup

pytestmark = [pytest.mark.django_db(transaction=True), pytest.mark.slow]
ROOT = Path(__file__).resolve().parents[2]
LOOK = """
import django, hashlib, json; django.setup()
from proklisis.web.runs.models import Run
from proklisis.web.clubs.models import Coach
from proklisis.web.analysis.reviewing import refresh, reviewed
run = Run.objects.get()
verdict = lambda r: [r.result.sheet, r.result.prescription, r.result.main_title]
kept = verdict(run)
refresh(run)
run = Run.objects.get()
with run.clip.working.open("rb") as f:
    clip = hashlib.sha256(f.read()).hexdigest()
print(json.dumps({"kept": kept, "anew": verdict(run), "clip": clip, "user": Coach.objects.get().user.password}))
"""


@pytest.fixture
def empty(tmp_path):
    """An empty database and an empty folder, as on a new machine; what to tell a process of it."""
    name = f"restored_{os.getpid()}"
    with connection.cursor() as cursor:
        cursor.execute(f"DROP DATABASE IF EXISTS {name}")
        cursor.execute(f"CREATE DATABASE {name}")
    yield {
        **os.environ,
        "PROKLISIS_DB_NAME": name,
        "PROKLISIS_DB_PORT": str(connection.settings_dict["PORT"]),
        "PROKLISIS_MEDIA": str(tmp_path / "elsewhere"),
        "DJANGO_SETTINGS_MODULE": "proklisis.web.settings",
    }
    with connection.cursor() as cursor:
        cursor.execute(f"DROP DATABASE {name} WITH (FORCE)")


def ask(env: dict[str, str], *args: str) -> subprocess.CompletedProcess[str]:
    return subprocess.run(
        [sys.executable, *args], cwd=ROOT, env=env, capture_output=True, text=True, check=False
    )


def test_verdicts_clips_and_passwords_are_the_same_on_another_machine(run, empty, tmp_path):
    folder = tmp_path / "backup"
    first = backup(folder)
    assert first.rows["runs.Run"] == 1 and first.copied == first.files > 0
    # Once more costs no file.
    assert backup(folder).copied == 0
    back = ask(empty, "manage.py", "restore", str(folder))
    assert back.returncode == 0, back.stderr
    assert "1 riders, 1 runs" in back.stdout
    looked = ask(empty, "-c", LOOK)
    assert looked.returncode == 0, looked.stderr
    seen = json.loads(looked.stdout.splitlines()[-1])
    here = [run.result.sheet, run.result.prescription, run.result.main_title]
    assert seen["kept"] == here == seen["anew"]
    with run.clip.working.open("rb") as f:
        assert seen["clip"] == hashlib.sha256(f.read()).hexdigest()
    assert seen["user"] == run.club.coaches.get().user.password
    # There is a club now: nothing is put over it unasked.
    again = ask(empty, "manage.py", "restore", str(folder))
    assert again.returncode == 1 and "holds a club already" in again.stderr
    assert ask(empty, "manage.py", "restore", str(folder), "--over").returncode == 0


def test_what_is_damaged_or_no_backup_is_said_before_anything_is_touched(run, empty, tmp_path):
    folder = tmp_path / "backup"
    folder.mkdir()
    with pytest.raises(CommandError, match="no whole backup"):
        call_command("restore", str(folder))
    backup(folder)
    lost = next(p for p in (folder / FILES).rglob("*.mp4"))
    lost.unlink()
    told = ask(empty, "manage.py", "restore", str(folder))
    assert told.returncode == 1 and "1 of" in told.stderr and lost.name in told.stderr
    dump = folder / json.loads((folder / LIST).read_text())["database"]
    dump.write_bytes(dump.read_bytes()[:-100])
    with pytest.raises(CommandError, match="damaged"):
        call_command("restore", str(folder))
    (folder / LIST).write_text("[]")
    with pytest.raises(CommandError, match="no whole backup"):
        call_command("restore", str(folder))
    assert reviewed(run) is not None
    shutil.rmtree(folder)
