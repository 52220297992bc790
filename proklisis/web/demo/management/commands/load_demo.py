"""Load the Lanternfell club once: a coach, riders and runs; clips without tracks go to the queue."""

from __future__ import annotations

import hashlib
from datetime import timedelta
from typing import Any

from django.contrib.auth.models import User
from django.core.files import File
from django.core.management.base import BaseCommand
from django.db import transaction
from django.utils import timezone

from proklisis.footage.probe import probe
from proklisis.web.analysis.reviewing import refresh
from proklisis.web.analysis.work import note
from proklisis.web.clubs.models import Club, Coach, Role
from proklisis.web.demo.cast import (
    ALIKE,
    CAST,
    CLIPS,
    CLUB,
    COACH,
    HAZEL,
    LAPS,
    SEASON,
    Again,
    Part,
)
from proklisis.web.demo.places import open_places
from proklisis.web.demo.practice import practise
from proklisis.web.demo.sent import send_in
from proklisis.web.goes import finding
from proklisis.web.goes.models import SessionFilm
from proklisis.web.riders.models import Rider, RiderAccount, Whose
from proklisis.web.runs.blobs import unpack
from proklisis.web.runs.models import Clip, Edit, Film, Run, TrackSet, packed
from proklisis.web.runs.queueing import enqueue
from proklisis.web.scripts.approving import approve
from proklisis.web.scripts.composing import script_of
from proklisis.web.scripts.models import Script, Tick
from proklisis.web.targets.models import Prescribed


class Command(BaseCommand):
    help = __doc__

    def handle(self, *args: Any, **options: Any) -> None:
        if Club.objects.filter(name=CLUB).exists():
            return
        username, name, password = COACH
        with transaction.atomic():
            club = Club.objects.create(name=CLUB)
            user = User.objects.create_user(username, password=password)
            self.coach = user
            coach = Coach.objects.create(user=user, club=club, name=name, role=Role.OWNER)
            for part in reversed((*CAST, *ALIKE)):
                self._run(club, part)
            for again in SEASON:
                self._again(club, again)
            self._laps(club)
            club.texts.create(title="Greeting", text="Hello {rider}, thank you for the clip.")
            club.texts.create(
                title="Rules of the hall",
                text="In the hall its own rules come first: helmets on, one rider a lane.",
                closing=True,
            )
            open_places(club)
            self._own_page(club)
            practise(club, coach, timezone.now())
            send_in(club, user, timezone.now())
        self.stdout.write(f"The {CLUB} club is loaded.")

    def _own_page(self, club: Club) -> None:
        """Hazel reads her answers on a page of her own."""
        username, name, password = HAZEL
        user = User.objects.create_user(username, first_name=name, password=password)
        RiderAccount.objects.create(user=user, rider=club.riders.get(name=name), kind=Whose.RIDER)

    def _laps(self, club: Club) -> None:
        """A session film that is cut into goes while the coach looks on."""
        path = CLIPS / f"{LAPS.key}.mp4"
        film = Film.objects.create(club=club)
        session = SessionFilm.objects.create(
            club=club, film=film, title=LAPS.title, discipline=LAPS.discipline
        )
        with path.open("rb") as f:
            film.name, film.size = path.name, path.stat().st_size
            film.sha256 = hashlib.file_digest(f, "sha256").hexdigest()
            f.seek(0)
            film.file.save(path.name, File(f))
        finding.enqueue(session)

    def _again(self, club: Club, again: Again) -> None:
        """One more run of a rider who is filmed all season, with the Script that they were given."""
        run = self._run(club, again.part)
        added = timezone.now() - timedelta(days=again.days_ago)
        Run.objects.filter(pk=run.pk).update(added=added, filmed_on=added.date(), gear=again.gear)
        run = Run.objects.select_related("rider", "clip", "club").get(pk=run.pk)
        refresh(run)
        if again.cue:
            main = run.result.prescription["main"]["fault"]
            values = {"fault": main, "cue": again.cue}
            run.edits.create(kind=Edit.Kind.CUE, by=self.coach, values=values)
            refresh(run)
        if again.approved:
            script = script_of(run)
            script.retest_on = (added + timedelta(days=14)).date()
            script.save()
            approve(run, script, self.coach)
            Script.objects.filter(run=run).update(approved_at=added)
            drill = Prescribed.objects.get(run=run).drill
            for step in range(again.ticked):
                tick = script.ticks.create(drill=drill, step=step)
                Tick.objects.filter(pk=tick.pk).update(at=added + timedelta(days=2 + 3 * step))

    def _run(self, club: Club, part: Part) -> Run:
        rider, _ = Rider.objects.get_or_create(
            club=club, number=part.number, defaults={
                "name": part.name, "colours": part.colours, "level": part.level, "born": part.born, "height_cm": part.height_cm,
                "guardian_consent": part.guardian_consent, "stance": part.stance,
            },
        )  # fmt: skip
        run = Run.objects.create(
            club=club, rider=rider, title=part.title, level=part.level, intention_text=part.intention, view=part.view,
            intention_faults=list(part.intention_faults), discipline=part.discipline,
            conditions={"slope_deg": 17, "snow": "groomed"},
        )  # fmt: skip
        for seen in part.seen:
            values = {"fault": seen, "scope": "run", "words": "", "sure": True, "seen": True}
            run.edits.create(kind=Edit.Kind.NOTE, by=self.coach, values=values)
        path = CLIPS / f"{part.key}.mp4"
        if part.handed_in:
            # What is known of the run came with its tracks.
            facts = unpack(path.with_suffix(".npz").read_bytes()).facts
            run.view, run.conditions = facts.view or "", dict(facts.conditions)
            run.save()
        with path.open("rb") as f:
            digest = hashlib.file_digest(f, "sha256").hexdigest()
            f.seek(0)
            Clip.objects.create(
                run=run,
                name=f"{part.key}.mp4",
                size=path.stat().st_size,
                sha256=digest,
                original=File(f, path.name),
            )
        if part.ready:
            self._ready(run, part)
        else:
            enqueue(run)
        return run

    def _ready(self, run: Run, part: Part) -> None:
        """The shipped clip is a working copy already, and its tracks come with it."""
        path = CLIPS / f"{part.key}.mp4"
        footage, clip = probe(path), run.clip
        note(clip, footage)
        clip.play_width, clip.play_height = footage.width, footage.height
        with path.open("rb") as f:
            clip.working.save(path.name, File(f), save=False)
        clip.save()
        TrackSet.objects.create(run=run, file=packed(path.with_suffix(".npz").read_bytes()))
        refresh(run)
        Run.objects.filter(pk=run.pk).update(state=Run.State.READY, progress=1.0)
