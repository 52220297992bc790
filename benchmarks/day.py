"""A made day: 120 clips come by link from 90 senders on lines that break, ten that nobody can open, five twice.

    pytest benchmarks/day.py -s   (with the database's settings in the environment, as ./test has them)

Everything is as it is on a server, but that who is in a picture is not looked for: one person is taken to be in it. What
is counted is what the senders are told, and what the coach has in the end.
"""

from __future__ import annotations

import random
import threading
import time
from collections import Counter
from datetime import timedelta

import pytest
from django.db import connection
from django.utils import timezone
from rest_framework.test import APIClient

from proklisis.footage.people import Someone
from proklisis.footage.probe import probe
from proklisis.web.intake import looking
from proklisis.web.intake.models import Intake, Sender, Sent
from proklisis.web.runs.models import Film, Run
from proklisis.web.stored import on_disk
from tests.web.conftest import client_of
from tests.web.test_intake import empty_film
from tests.web.test_uploads import TUS, told

pytest_plugins = ["tests.conftest", "tests.web.conftest"]
pytestmark = pytest.mark.django_db(transaction=True)
SENDERS, CLIPS, UNREADABLE, TWICE = 90, 120, 10, 5
#: A piece breaks off in the middle so often, and its answer is lost so often.
BREAKS, LOST = 0.4, 0.2
THREADS = 8


def looked(sent: Sent):
    assert sent.film is not None
    with on_disk(sent.film.file, sent.name) as path:
        return probe(path), [Someone(numbers=[0], heights=[300.0])]


def send(token: str, data: bytes, name: str, rng: random.Random) -> int:
    """Send a clip over a line that breaks, as a phone's browser does; the last status."""
    phone = APIClient()
    made = phone.post(
        f"/api/sent/{token}/clips", HTTP_UPLOAD_LENGTH=str(len(data)), HTTP_UPLOAD_METADATA=told(filename=name),
        content_type="application/offset+octet-stream", **TUS,
    )  # fmt: skip
    if made.status_code != 201:
        return made.status_code
    where, at = made["Location"], 0
    while True:
        end = len(data) if rng.random() > BREAKS else rng.randint(at, len(data))
        answer = phone.patch(where, data[at:end], content_type="application/offset+octet-stream", HTTP_UPLOAD_OFFSET=str(at), **TUS)  # fmt: skip
        if answer.status_code >= 400:
            return answer.status_code
        if end == len(data):
            return answer.status_code
        # Whether the answer was lost or not, a browser asks how far it is.
        at = int(phone.head(where, **TUS)["Upload-Offset"]) if rng.random() < LOST else end


def test_a_day(coach, tmp_path, monkeypatch, capsys, settings):
    settings.REST_FRAMEWORK = {**settings.REST_FRAMEWORK, "DEFAULT_THROTTLE_RATES": {}}
    monkeypatch.setattr(
        "rest_framework.throttling.ScopedRateThrottle.allow_request", lambda *_: True
    )
    monkeypatch.setattr(looking, "_looked", looked)
    link = Intake.objects.create(
        club=coach.club, title="Today", discipline="alpine_carve", expires=timezone.now() + timedelta(days=1), most_clips=3
    )  # fmt: skip
    rng, film = random.Random(120), empty_film(tmp_path)
    good = [film + b"\0\0\0\x0cfree" + k.to_bytes(4, "big") for k in range(CLIPS)]
    kinds = (
        ["unreadable"] * UNREADABLE + ["twice"] * TWICE + ["good"] * (CLIPS - UNREADABLE - TWICE)
    )
    rng.shuffle(kinds)
    senders = [
        link.senders.create(name=f"Sender {k}", level="novice", agreed="x", text="x")
        for k in range(SENDERS)
    ]
    plan = [(senders[k % SENDERS], kind, k) for k, kind in enumerate(kinds)]
    # Those that come twice come after what they are the same as.
    plan.sort(key=lambda p: p[1] == "twice")
    first_good = [k for k, kind in enumerate(kinds) if kind == "good"]
    statuses: Counter[tuple[str, int]] = Counter()
    lock = threading.Lock()

    def work(mine: list) -> None:
        for sender, kind, k in mine:
            data = good[k]
            if kind == "unreadable":
                data = b"no film" * 50 if k % 2 else film[: len(film) // 2] + bytes(len(film) // 2)
            elif kind == "twice":
                data = good[first_good[k % 20]]
            status = send(sender.token, data, f"clip-{k}.mp4", random.Random(k))
            with lock:
                statuses[kind, status] += 1
        connection.close()

    began = time.perf_counter()
    for part in ([p for p in plan if p[1] != "twice"], [p for p in plan if p[1] == "twice"]):
        threads = [threading.Thread(target=work, args=(part[n::THREADS],)) for n in range(THREADS)]
        for t in threads:
            t.start()
        for t in threads:
            t.join()
    took = time.perf_counter() - began
    for pk in Sent.objects.filter(state="looking").values_list("pk", flat=True):
        looking.look(pk)
    client = client_of(coach)
    for held in Sender.objects.filter(sent__state="held").distinct():
        client.post(f"/api/senders/{held.pk}/let_in", {"rider": None}, format="json")
    states = Counter(Sent.objects.values_list("state", flat=True))
    told_each = all(
        s.state == "in" or s.problem for s in Sent.objects.all()
    )  # whoever sent knows what became of it
    desk = client.get("/api/desk").json()
    with capsys.disabled():
        print(f"\n{CLIPS} clips of {SENDERS} senders in {took:.1f} s; answers {dict(statuses)}")
        print(f"states {dict(states)}, runs {Run.objects.count()}, films {Film.objects.count()}, desk waits {desk['waiting']}, done on {desk['done_on']}, next {desk['next_on']}")  # fmt: skip
    wanted = CLIPS - UNREADABLE - TWICE
    assert Run.objects.count() == Film.objects.count() == states["in"] == wanted
    assert states["unreadable"] + states["refused"] == UNREADABLE + TWICE
    assert told_each
    assert (desk["waiting"] == wanted and desk["next_on"] > desk["done_on"]) or desk[
        "next_on"
    ] == desk["done_on"]
