"""Who a clip is of, by its file's name: told where one rider fits, and nobody named where it may be another."""

from __future__ import annotations

import pytest

from proklisis.web.riders.models import Rider
from proklisis.web.riders.naming import Named, who

CLUB = [
    Named(1, "Wren Hallowell", 7),
    Named(2, "Rook Hallowell", 12),
    Named(3, "Zoë Lindqvist", 104),
    Named(4, "Ed", 20),
    Named(5, "Ines Marigold", None),
]


@pytest.mark.parametrize(("file", "rider", "by"), [
    ("Wren Hallowell run 2.mp4", 1, "Wren Hallowell"),
    ("WrenHallowell.MOV", 1, "Wren Hallowell"),
    ("slalom_rook_3.mp4", 2, "rook"),
    ("zoe-morning.mp4", 3, "zoe"),
    ("LINDQVIST 1.mp4", 3, "lindqvist"),
    ("run_7.mp4", 1, "number 7"),
    ("#12.mp4", 2, "number 12"),
    ("no 104 evening 2.mp4", 3, "number 104"),
    ("IMG_0007.mov", None, ""),       # the camera's own count
    ("GOPR7.mp4", None, ""),
    ("MVI #7.mp4", 1, "number 7"),    # said to be a number all the same
    ("20261128_101507.mp4", None, ""),
    ("hallowell.mp4", None, ""),      # two of that name
    ("Wren and Rook.mp4", None, ""),  # both
    ("edited.mp4", None, ""),         # a short name inside a word
    ("run 7 of 12.mp4", None, ""),    # two numbers
    ("", None, ""),
])  # fmt: skip
def test_a_file_names_one_rider_or_nobody(file, rider, by):
    guess = who(file, CLUB)
    assert (guess and guess.rider) == rider
    assert by in (guess.by if guess else "")


@pytest.mark.django_db
def test_a_card_of_files_is_asked_about_at_once_and_of_the_own_club(client, rider):
    from proklisis.web.clubs.models import Club

    Rider.objects.create(club=Club.objects.create(name="Other"), name="Heron", number=9)
    Rider.objects.create(
        club=rider.club, name="Gone Away", number=5, removed_at="2026-01-01T00:00Z"
    )
    files = ["wren.mp4", "heron.mp4", "9.mp4", "gone away.mp4", "7.mp4"]
    told = client.post("/api/riders/named", {"files": files}, format="json").json()
    assert [t["rider"] for t in told] == [rider.pk, None, None, None, rider.pk]
    assert (
        client.post("/api/riders/named", {"files": ["x"] * 501}, format="json").status_code == 400
    )
    assert client.post("/api/riders/named", {"files": "x"}, format="json").status_code == 400
