"""PostgreSQL restarts in the middle of an upload: server, worker and clip are as they were a moment later.

The database, the server and the worker are this test's own, started as ``./start`` starts them.
"""

from __future__ import annotations

import http.client
import json
import os
import shutil
import signal
import socket
import subprocess
import sys
import time
from collections.abc import Iterator
from pathlib import Path

import pytest

from tests.web.test_uploads import told

pytestmark = [pytest.mark.slow, pytest.mark.timeout(300)]
ROOT = Path(__file__).resolve().parents[2]
BEGIN = """
import django; django.setup()
from django.contrib.auth import get_user_model
from django.contrib.sessions.backends.db import SessionStore
from django.contrib.auth import SESSION_KEY, BACKEND_SESSION_KEY, HASH_SESSION_KEY
from proklisis.web.clubs.models import Club, Coach
from proklisis.web.riders.models import Rider
from proklisis.web.runs.models import Run
user = get_user_model().objects.create_user("ada", password="a-long-password-1")
club = Club.objects.create(name="Lanternfell")
Coach.objects.create(user=user, club=club, name="Ada")
rider = Rider.objects.create(club=club, name="Wren", number=7, born=1990, height_cm=175)
run = Run.objects.create(club=club, rider=rider, level="intermediate", view="front", conditions={"slope_deg": 17})
s = SessionStore()
s[SESSION_KEY], s[BACKEND_SESSION_KEY], s[HASH_SESSION_KEY] = str(user.pk), "django.contrib.auth.backends.ModelBackend", user.get_session_auth_hash()
s.create()
print(s.session_key, run.pk)
"""


class Site:
    """A database, a server and a worker of one's own."""

    def __init__(self, folder: Path) -> None:
        self.folder, self.parts = folder, []
        made = self.shell(
            "mkdir -p $PROKLISIS_VAR; export PROKLISIS_DB_PORT=56400; start_postgres; echo $PROKLISIS_DB_PORT $PG_FOLDER"
        )
        port, self.pg = made.split()
        self.env = {
            **os.environ,
            "PROKLISIS_VAR": str(folder),
            "PROKLISIS_MEDIA": str(folder / "media"),
            "PROKLISIS_DB_PORT": port,
            "PROKLISIS_DB_NAME": "proklisis",
            "PROKLISIS_LOST_S": "12",
        }
        subprocess.run(
            [sys.executable, "manage.py", "migrate", "-v", "0"], cwd=ROOT, env=self.env, check=True
        )
        answer = subprocess.run(
            [sys.executable, "-c", BEGIN],
            cwd=ROOT,
            env=self.env,
            check=True,
            capture_output=True,
            text=True,
        )
        session, self.run = answer.stdout.split()
        with socket.socket() as s:
            s.bind(("127.0.0.1", 0))
            self.port = s.getsockname()[1]
        token = "t" * 32
        self.headers = {
            "Cookie": f"sessionid={session}; csrftoken={token}",
            "X-CSRFToken": token,
            "Tus-Resumable": "1.0.0",
        }
        self.keep(
            f"gunicorn proklisis.web.wsgi --bind 127.0.0.1:{self.port} --worker-class gthread --threads 4 --log-level critical"
        )
        self.keep(
            f"{sys.executable} manage.py procrastinate worker --queues clips --concurrency 1 --delete-jobs successful"
        )

    def shell(self, commands: str) -> str:
        script = f'. tools/setup.sh; PG_FOLDER="$PROKLISIS_VAR/pg"; {commands}'
        env = {**os.environ, "PROKLISIS_VAR": str(self.folder)}
        return subprocess.run(
            ["bash", "-euo", "pipefail", "-c", script],
            cwd=ROOT,
            env=env,
            check=True,
            stdout=subprocess.PIPE,
            text=True,
        ).stdout

    def keep(self, command: str) -> None:
        script = f"say() {{ :; }}; export KEEP_PAUSE=0.5; . tools/keep.sh; keep {command}"
        self.parts.append(
            subprocess.Popen(
                ["bash", "-euo", "pipefail", "-c", script],
                cwd=ROOT,
                env=self.env,
                start_new_session=True,
                stderr=subprocess.DEVNULL,
            )
        )

    def restart_database(self, how: str) -> None:
        self.shell(
            f"as_postgres $(pg_bin)/pg_ctl -D {self.pg}/data -m {how} -w -s restart >/dev/null"
        )

    def ask(
        self, method: str, path: str, body: bytes = b"", **headers: str
    ) -> http.client.HTTPResponse:
        line = http.client.HTTPConnection("127.0.0.1", self.port, timeout=30)
        line.request(
            method,
            path,
            body,
            {**self.headers, **{k.replace("_", "-"): v for k, v in headers.items()}},
        )
        answer = line.getresponse()
        answer.body = answer.read()  # type: ignore[attr-defined]
        return answer

    def until(self, what, seconds: float = 60):
        """The first true answer; a refused connection or an error in between is waited out, as a browser does."""
        end = time.monotonic() + seconds
        while True:
            try:
                if found := what():
                    return found
            except (OSError, http.client.HTTPException):
                pass
            assert time.monotonic() < end, "it did not happen in time"
            time.sleep(0.2)

    def close(self) -> None:
        for part in self.parts:
            os.killpg(part.pid, signal.SIGKILL)
            part.wait()
        self.shell(f"as_postgres $(pg_bin)/pg_ctl -D {self.pg}/data -m immediate -s stop || true")
        shutil.rmtree(self.pg, ignore_errors=True)


@pytest.fixture
def site(tmp_path) -> Iterator[Site]:
    made = Site(tmp_path)
    yield made
    made.close()


def test_a_database_that_restarts_in_the_middle_of_an_upload_costs_nothing(
    site, short_clip, tmp_path
):
    brief = tmp_path / "brief.mp4"
    subprocess.run(
        [
            "ffmpeg",
            "-v",
            "error",
            "-y",
            "-i",
            str(short_clip),
            "-frames:v",
            "60",
            "-g",
            "12",
            str(brief),
        ],
        check=True,
    )
    data = brief.read_bytes()
    site.until(lambda: site.ask("GET", "/livez").status == 200)
    begun = site.ask(
        "POST",
        "/api/uploads",
        Upload_Length=str(len(data)),
        Upload_Metadata=told(run=site.run, filename="brief.mp4"),
    )
    assert begun.status == 201
    place, third = begun.headers["Location"], len(data) // 3
    piece = {"Content_Type": "application/offset+octet-stream"}
    assert site.ask("PATCH", place, data[:third], Upload_Offset="0", **piece).status == 204

    # The second piece is under way: its head and half of its body are sent before the database goes.
    line = http.client.HTTPConnection("127.0.0.1", site.port, timeout=60)
    line.putrequest("PATCH", place)
    for name, value in {
        **site.headers,
        "Content-Type": piece["Content_Type"],
        "Upload-Offset": str(third),
        "Content-Length": str(third),
    }.items():
        line.putheader(name, value)
    line.endheaders(data[third : third + third // 2])
    site.restart_database("immediate")
    line.send(data[third + third // 2 : 2 * third])
    assert line.getresponse().status in (204, 500, 503)

    # The browser asks how far it got, and goes on from there.
    def arrived() -> int:
        answer = site.ask("HEAD", place)
        return int(answer.headers["Upload-Offset"]) if answer.status == 200 else 0

    offset = site.until(arrived)
    assert third <= offset <= 2 * third
    assert (
        site.until(
            lambda: (
                site.ask("PATCH", place, data[offset:], Upload_Offset=str(offset), **piece).status
            )
        )
        == 204
    )
    (kept,) = (tmp_path / "media").rglob("*.mp4")
    assert kept.read_bytes() == data

    # The worker lost its connection too; it is started again and takes the clip in, through one more restart.
    def state() -> str:
        return json.loads(site.ask("GET", f"/api/runs/{site.run}").body)["state"]

    site.until(lambda: state() == "working", 90)
    site.restart_database("fast")
    assert site.until(lambda: (now := state()) in ("ready", "failed") and now, 150) == "ready"
