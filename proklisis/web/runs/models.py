"""A run and everything that hangs from it. Tracks are kept whole and never overwritten."""

from __future__ import annotations

import uuid
from pathlib import PurePath
from typing import Any

from django.conf import settings
from django.core.files.base import ContentFile
from django.db import models
from django.db.models.fields.files import FieldFile
from django.utils import timezone

from proklisis.core.camera.views import ONLY_3D, VIEW_WORDS
from proklisis.web.clubs.models import Club
from proklisis.web.riders.models import LEVELS, Rider

VIEWS = [
    (view, words[0].upper() + words[1:]) for view, words in VIEW_WORDS.items() if view != ONLY_3D
]


class Worked(models.Model):
    """Something that workers work on, and how far they have got with it."""

    class State(models.TextChoices):
        WAITING = "waiting", "Waiting for a clip"
        QUEUED = "queued", "In the queue"
        WORKING = "working", "Being analysed"
        READY = "ready", "Ready"
        FAILED = "failed", "Could not be analysed"
        CANCELLED = "cancelled", "Cancelled"

    state = models.CharField(max_length=10, choices=State, default=State.WAITING, db_index=True)
    step = models.CharField(max_length=60, blank=True)
    progress = models.FloatField(default=0.0)
    problem = models.CharField(max_length=500, blank=True)
    cancel_asked = models.BooleanField(default=False)
    #: Each queued attempt has its own number; a job of an older attempt stops itself.
    attempt = models.PositiveIntegerField(default=0)

    class Meta:
        abstract = True

    @property
    def busy(self) -> bool:
        return self.state in (self.State.QUEUED, self.State.WORKING)


class Run(Worked):
    """One run of one rider: what they were trying to do, and how far the software has got with it."""

    club = models.ForeignKey(Club, on_delete=models.CASCADE, related_name="runs")
    rider = models.ForeignKey(Rider, on_delete=models.CASCADE, related_name="runs")
    part_of = models.ForeignKey(
        "self", on_delete=models.CASCADE, null=True, related_name="others",
        help_text="of another clip of a run: the run of its first clip, with which it is judged",
    )  # fmt: skip
    pass_no = models.PositiveSmallIntegerField(
        default=1, help_text="clips of one pass show the same units"
    )
    #: Of another clip of the same pass: seconds to add to its times to get the first clip's; how that was found.
    offset_s = models.FloatField(null=True)
    offset_u_s = models.FloatField(null=True)
    offset_by = models.CharField(max_length=8, blank=True)
    discipline = models.CharField(max_length=40, default="alpine_carve")
    title = models.CharField(max_length=120, blank=True)
    level = models.CharField(max_length=12, choices=LEVELS)
    intention_text = models.CharField(max_length=300, blank=True)
    intention_faults = models.JSONField(default=list, blank=True)
    conditions = models.JSONField(default=dict, blank=True)
    gear = models.JSONField(default=dict, blank=True)
    schools = models.JSONField(default=dict, blank=True)
    view = models.CharField(
        max_length=10, choices=VIEWS, blank=True, help_text="empty: as the picture shows it"
    )
    view_offset_deg = models.FloatField(default=0.0)
    roll_deg = models.FloatField(default=0.0)
    #: What was marked of the camera and the scene, as ``runs.camera`` writes it.
    camera = models.JSONField(default=dict, blank=True)
    filmed_fps = models.FloatField(
        null=True, blank=True, help_text="where the file plays slower than it was filmed"
    )
    sure = models.JSONField(
        default=list,
        blank=True,
        help_text="what the coach has confirmed against the picture: view, front_foot, rate",
    )
    filmed_on = models.DateField(null=True, blank=True)
    due = models.DateField(null=True, blank=True, help_text="the day an answer is promised for")
    added = models.DateTimeField(auto_now_add=True)
    removed_at = models.DateTimeField(
        null=True, blank=True, help_text="taken off the lists; it can be brought back for a month"
    )

    #: When this attempt's following of the rider began, from which the time left is told.
    following_since = models.DateTimeField(null=True)
    #: The last step of this attempt is in the queue: whichever part was done last put it there.
    joining = models.BooleanField(default=False)
    #: The rider is to be followed again, though there are tracks: another person was chosen.
    follow_again = models.BooleanField(default=False)

    class Meta:
        ordering = ["-added", "-id"]
        indexes = [models.Index(fields=["club", "-added", "-id"], name="a_clubs_newest")]

    def __str__(self) -> str:
        return f"{self.rider} {self.pk}"

    def get_additional_data(self) -> dict[str, int]:
        """What is kept beside each entry of who did what."""
        return {"club": self.club_id, "run": self.pk, "rider": self.rider_id}

    @property
    def person(self) -> int:
        """Who of the clip's people the run is of: the chosen one, once they have been followed."""
        chosen = self.clip.chosen if hasattr(self, "clip") else 0
        # Newest first; the tracks themselves are megabytes and are left where they are.
        followed = list(self.track_sets.values_list("person", flat=True))
        return chosen if chosen in followed or not followed else followed[0]

    @property
    def tracks(self) -> TrackSet | None:
        """The newest tracks of whom the run is of."""
        return self.track_sets.filter(person=self.person).first()

    @property
    def corrections(self) -> models.QuerySet[Edit]:
        """Corrections to whom the run is of; those to others in the picture wait until they are chosen again."""
        return self.edits.filter(person=self.person)


def _place(kind: str, run_id: int, name: str) -> str:
    return f"{kind}/{run_id}/{uuid.uuid4().hex}{PurePath(name).suffix.lower()[:8]}"


def film_path(film: Film, name: str) -> str:
    return f"originals/films/{uuid.uuid4().hex}{PurePath(name).suffix.lower()[:8]}"


class Film(models.Model):
    """A video that several runs share, each its own part or all of it. It is kept once, untouched.

    One that is still on its way in has no file and no size.
    """

    club = models.ForeignKey(Club, on_delete=models.CASCADE, related_name="films")
    name = models.CharField(max_length=255, blank=True)
    size = models.BigIntegerField(default=0)
    sha256 = models.CharField(max_length=64, db_index=True, blank=True)
    file = models.FileField(upload_to=film_path, max_length=200, blank=True)
    added = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-id"]


def original_path(clip: Clip, name: str) -> str:
    return _place("originals", clip.run_id, name)


def working_path(clip: Clip, name: str) -> str:
    return _place("working", clip.run_id, name)


def portrait_path(clip: Clip, name: str) -> str:
    return _place("pictures", clip.run_id, name)


class Clip(models.Model):
    """The video of a run: the original untouched, and a copy that browsers step exactly."""

    run = models.OneToOneField(Run, on_delete=models.CASCADE, related_name="clip")
    name = models.CharField(max_length=255)
    size = models.BigIntegerField()
    sha256 = models.CharField(max_length=64, db_index=True)
    original = models.FileField(upload_to=original_path, max_length=200, blank=True)
    #: Where the video is kept for several runs; ``original`` is then empty.
    film = models.ForeignKey(Film, on_delete=models.RESTRICT, null=True, related_name="clips")
    from_s = models.FloatField(
        null=True, help_text="of a part of the film: where it begins, seconds"
    )
    to_s = models.FloatField(null=True, help_text="and where it ends")
    aim = models.JSONField(
        null=True,
        help_text="whom of those in the picture it is of: ``s`` from the film's first frame, ``box`` in pixels",
    )
    working = models.FileField(upload_to=working_path, max_length=200, blank=True)
    film_gone_at = models.DateTimeField(
        null=True, help_text="when its films were let go of, as the club keeps them for so long"
    )
    portrait = models.FileField(upload_to=portrait_path, max_length=200, blank=True)
    container = models.CharField(max_length=10, blank=True)
    codec = models.CharField(max_length=20, blank=True)
    #: Upright, with square pixels; and as it is stored in the file.
    width = models.PositiveIntegerField(default=0)
    height = models.PositiveIntegerField(default=0)
    stored_width = models.PositiveIntegerField(default=0)
    stored_height = models.PositiveIntegerField(default=0)
    rotation = models.PositiveSmallIntegerField(default=0)
    play_width = models.PositiveIntegerField(default=0)
    play_height = models.PositiveIntegerField(default=0)
    fps = models.FloatField(default=0.0)
    filmed_hint = models.FloatField(
        null=True, help_text="frames a second at filming, as a tag of the file tells"
    )
    frames = models.PositiveIntegerField(default=0)
    start_s = models.FloatField(default=0.0)
    into_s = models.FloatField(default=0.0, help_text="where in the file its first frame is")
    #: Each frame's own time and which are key frames, compressed.
    index = models.BinaryField(default=b"")
    missing_after = models.JSONField(default=list)
    doubled = models.JSONField(default=list)
    #: Everybody in the picture, the likeliest rider first, as ``footage.people`` found them; and who was chosen.
    people = models.JSONField(default=list)
    chosen = models.PositiveSmallIntegerField(default=0)
    #: Blur, light and size of the rider, as read while following.
    looks = models.JSONField(default=dict)

    @property
    def source(self) -> FieldFile:
        """The video itself, untouched: the clip's own, or the film's."""
        return self.film.file if self.film is not None else self.original


class Piece(models.Model):
    """Some frames of a clip that one worker follows. Its result is kept until the pieces are joined."""

    run = models.ForeignKey(Run, on_delete=models.CASCADE, related_name="pieces")
    number = models.PositiveIntegerField()
    first = models.PositiveIntegerField()
    stop = models.PositiveIntegerField()
    done = models.PositiveIntegerField(default=0, help_text="frames followed so far")
    data = models.BinaryField(null=True)

    class Meta:
        ordering = ["number"]
        constraints = [models.UniqueConstraint(fields=["run", "number"], name="one_piece_a_number")]


class Upload(models.Model):
    """A file on its way in pieces. It ends as a run's clip or as a film, or is cleared away when nobody goes on with it."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4)
    club = models.ForeignKey(Club, on_delete=models.CASCADE)
    run = models.ForeignKey(Run, on_delete=models.CASCADE, related_name="uploads", null=True)
    film = models.ForeignKey(Film, on_delete=models.CASCADE, related_name="uploads", null=True)
    name = models.CharField(max_length=255)
    size = models.BigIntegerField()
    changed = models.DateTimeField(auto_now=True)


class UploadPart(models.Model):
    """Bytes of an upload that came one after the other, where files are kept in a store and on no disk."""

    upload = models.ForeignKey(Upload, on_delete=models.CASCADE, related_name="parts")
    offset = models.BigIntegerField()
    size = models.BigIntegerField()
    file = models.FileField(upload_to="arriving", max_length=200)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["upload", "offset"], name="one_part_a_place"),
        ]


def tracks_path(row: Packed, name: str) -> str:
    return _place("tracks", row.of_run, name)


def packed(data: bytes) -> ContentFile[bytes]:
    """Compressed arrays as a file to be kept."""
    return ContentFile(data, name="packed.npz")


class Packed(models.Model):
    """A row with arrays that are too large for the database: they are kept as a file, compressed."""

    file = models.FileField(upload_to=tracks_path, max_length=200)

    class Meta:
        abstract = True

    @property
    def of_run(self) -> int:
        """The number of the run it belongs to."""
        raise NotImplementedError

    @property
    def data(self) -> bytes:
        """What is kept. FileNotFoundError where the file is gone."""
        try:
            return self._read()
        except FileNotFoundError:
            # It may have been written anew, and the old one cleared away, since this row was loaded.
            self.refresh_from_db(fields=["file"])
            return self._read()

    def _read(self) -> bytes:
        with self.file.storage.open(self.file.name or "", "rb") as f:
            return bytes(f.read())


class TrackSet(Packed):
    """Landmarks of a run as one source gave them. Never changed once saved."""

    run = models.ForeignKey(Run, on_delete=models.CASCADE, related_name="track_sets")
    source = models.CharField(max_length=12, default="tracker")
    person = models.PositiveSmallIntegerField(
        default=0, help_text="whom of the clip's people it follows"
    )
    made = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-id"]

    @property
    def of_run(self) -> int:
        return self.run_id


class OfTracks(Packed):
    """What is kept beside a set of tracks."""

    class Meta:
        abstract = True

    tracks: TrackSet

    @property
    def of_run(self) -> int:
        return self.tracks.run_id


class SeenEdges(OfTracks):
    """Straight edges around the rider in every frame, for gear to be found among. Never changed once saved."""

    tracks = models.OneToOneField(TrackSet, on_delete=models.CASCADE, related_name="edges")


class FoundGear(OfTracks):
    """The ends of gear that were found among them; found again when the run is read as another discipline, or from another view."""

    tracks = models.OneToOneField(TrackSet, on_delete=models.CASCADE, related_name="found_gear")
    found_for = models.CharField(
        max_length=120, help_text="gear, view, front foot, rate and version"
    )


def crop_path(crop: Crop, name: str) -> str:
    return _place("pictures", crop.track_set.run_id, name)


class Crop(models.Model):
    """The rider cut out of one frame, as a small picture. It goes with the tracks that say where the rider is.

    One that is still to be made has no file.
    """

    track_set = models.ForeignKey(TrackSet, on_delete=models.CASCADE, related_name="crops")
    frame = models.PositiveIntegerField()
    box = models.JSONField(help_text="left, top, width, height in pixels of the clip")
    file = models.FileField(upload_to=crop_path, max_length=200, blank=True)
    problem = models.CharField(max_length=300, blank=True)

    class Meta:
        ordering = ["frame"]
        constraints = [
            models.UniqueConstraint(fields=["track_set", "frame"], name="one_crop_a_frame")
        ]


def pair_film_path(film: MadeFilm, name: str) -> str:
    return f"pictures/pairs/{uuid.uuid4().hex}.mp4"


class MadeFilm(Worked):
    """A film that a job makes of runs."""

    file = models.FileField(upload_to=pair_film_path, max_length=200, blank=True)
    added = models.DateTimeField(auto_now_add=True)

    class Meta:
        abstract = True
        ordering = ["-id"]


class PairFilm(MadeFilm):
    """Two runs beside each other as a film that can be kept; it goes with either run."""

    club = models.ForeignKey(Club, on_delete=models.CASCADE, related_name="pair_films")
    a = models.ForeignKey(Run, on_delete=models.CASCADE, related_name="+")
    b = models.ForeignKey(Run, on_delete=models.CASCADE, related_name="+")
    fps = models.FloatField()
    halves = models.JSONField(
        help_text="for a and b: numbers, boxes, words, mirror, outline; lay: how they lie"
    )


class ToldFilm(MadeFilm):
    """A Telling of a run as a film; it goes with the run."""

    run = models.ForeignKey(Run, on_delete=models.CASCADE, related_name="told_films")
    burnt = models.BooleanField(help_text="captions stand on the picture")
    plan = models.JSONField(help_text="what each frame shows, what lies over it, what is heard")
    sent = models.BooleanField(default=False, help_text="a rider's page shows it")


class Recording(models.Model):
    """What a coach said: kept piece by piece as it is spoken, so that nothing is lost where a page is closed."""

    run = models.ForeignKey(Run, on_delete=models.CASCADE, related_name="recordings")
    kind = models.CharField(max_length=40, help_text="media type")
    used = models.BooleanField(default=False, help_text="a kept Telling has it")
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True)
    added = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["id"]

    def content(self) -> bytes:
        """The sound, as far as it was recorded."""
        return b"".join(bytes(p) for p in self.pieces.values_list("data", flat=True))

    @property
    def size(self) -> int:
        """Bytes that are kept."""
        total: int | None = self.pieces.aggregate(n=models.Sum("size"))["n"]
        return total or 0


class RecordingPiece(models.Model):
    """A second or so of a recording."""

    recording = models.ForeignKey(Recording, on_delete=models.CASCADE, related_name="pieces")
    begin = models.PositiveIntegerField(help_text="first byte of it in the recording")
    size = models.PositiveIntegerField()
    data = models.BinaryField()

    class Meta:
        ordering = ["begin"]
        constraints = [
            models.UniqueConstraint(fields=["recording", "begin"], name="one_piece_a_place")
        ]


class Carried(models.Model):
    """A point off the body as it was carried from its marks; worked out again when they change."""

    run = models.ForeignKey(Run, on_delete=models.CASCADE, related_name="carried")
    landmark = models.CharField(max_length=30)
    marks = models.JSONField()
    data = models.BinaryField(default=b"")
    problem = models.CharField(max_length=300, blank=True)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["run", "landmark"], name="one_path_a_landmark")
        ]


class Edit(models.Model):
    """One thing that a coach put right or said of a run. Those that are not undone, in order, are in force."""

    class Kind(models.TextChoices):
        MARK = "mark", "A point put right"
        ADD = "add", "A boundary added"
        MOVE = "move", "A boundary moved"
        DELETE = "delete", "A boundary deleted"
        SIDE = "side", "The side of a unit"
        COUNT = "count", "How many units there are"
        GEAR = "gear", "Gear that was found: right, or left out"
        NOTE = "note", "What the coach saw"
        UNNOTE = "unnote", "A note taken back"
        CHOOSE = "choose", "The main thing"
        ALSO = "also", "A finding that is given beside it"
        CUE = "cue", "A cue"
        DRILL = "drill", "A drill"
        DROP = "drop", "Findings that are dropped"

    #: What changes the numbers; all else changes only what is made of them.
    MEASURING = (Kind.MARK, Kind.ADD, Kind.MOVE, Kind.DELETE, Kind.SIDE, Kind.COUNT, Kind.GEAR)
    #: A coach's word on what comes first; a helper has none.
    WORD = (Kind.CHOOSE, Kind.ALSO, Kind.CUE, Kind.DRILL, Kind.DROP)

    run = models.ForeignKey(Run, on_delete=models.CASCADE, related_name="edits")
    kind = models.CharField(max_length=6, choices=Kind)
    values = models.JSONField()
    undone = models.BooleanField(default=False)
    person = models.PositiveSmallIntegerField(
        default=0, help_text="who of the clip's people was followed then"
    )
    by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True)
    made = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["id"]


class Result(models.Model):
    """What was measured and found, as last worked out; it can always be worked out again."""

    run = models.OneToOneField(Run, on_delete=models.CASCADE, related_name="result")
    sheet = models.JSONField()
    bench = models.JSONField()
    prescription = models.JSONField()
    main_title = models.CharField(
        max_length=200,
        null=True,
        help_text="the main thing found, in words; empty where all is well",
    )
    outline = models.JSONField(default=list, help_text="the Ribbon in a few numbers")
    made = models.DateTimeField(
        default=timezone.now, help_text="when it last came out otherwise than before"
    )
    stale = models.BooleanField(
        default=False,
        help_text="something it rests on has changed; it is worked out again when it is next looked at",
    )
    changes = models.PositiveIntegerField(
        default=0, help_text="how often something that it rests on has changed"
    )
    made_by = models.CharField(
        max_length=16, default="", help_text="the version of code and playbooks that worked it out"
    )
    took_s = models.FloatField(default=0.0, help_text="seconds that measuring it took")
    remeasure = models.BooleanField(
        default=False,
        help_text="what has changed is what was measured, not only what is made of it",
    )
    by_eye = models.BooleanField(
        default=False, help_text="nobody was followed: units and findings are the coach's own"
    )
    presses = models.PositiveSmallIntegerField(
        null=True,
        help_text="the fewest presses until something can be judged, 0 where no mark would help; nothing where it is judged",
    )
    verdict_change = models.JSONField(
        null=True, help_text="what the last change did to the verdict; nothing where it stands"
    )
    together = models.JSONField(
        null=True, help_text="the sheet of all clips of the run, where it has several"
    )
    unused_clips = models.JSONField(
        default=list, help_text="in words, which other clips are not used, and why"
    )
    trouble = models.CharField(
        max_length=300,
        default="",
        help_text="why it could not be worked out again as things stand; may be empty",
    )

    def findings(self) -> list[dict[str, Any]]:
        found: list[dict[str, Any]] = self.prescription["findings"]
        return found


class KeptReview(Packed):
    """The review that a run's result was written from, for what reads frames and readings and not only words."""

    result = models.OneToOneField(Result, on_delete=models.CASCADE, related_name="review")

    @property
    def of_run(self) -> int:
        return self.result.run_id
