"""Taking runs off the lists, bringing them back, and letting go for good what nobody wanted back."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from datetime import datetime, timedelta

from django.conf import settings
from django.core.files.storage import default_storage
from django.utils import timezone

from proklisis.web.clips import uploading
from proklisis.web.clubs.entries import forget, forget_user
from proklisis.web.riders.models import Rider
from proklisis.web.runs import queueing
from proklisis.web.runs.models import Film, Run, ToldFilm
from proklisis.web.runs.writing import judged_anew, one_writer
from proklisis.web.stored import file_names

#: A file that no row knows of is left alone so long: a row may be on its way.
STRAY_AFTER = timedelta(hours=12)
#: Where rows keep their files.
FOLDERS = ("originals", "working", "pictures", "tracks", "arriving")


def remove(run: Run, at: datetime | None = None) -> None:
    """Take a run off the lists, as of ``at`` or now; its analysis stops, and it can be brought back for a month."""
    with one_writer(run):
        if run.busy:
            queueing.cancel(run)
        run.removed_at = at or timezone.now()
        run.save(update_fields=["removed_at"])
        judged_anew(run=run.part_of_id)


def bring_back(run: Run) -> None:
    run.removed_at = None
    run.save(update_fields=["removed_at"])
    judged_anew(run=run.part_of_id)


def erase(run: Run) -> Counter[str]:
    """Let a run go for good; its files go with its rows. How many rows of each model went."""
    gone: Counter[str] = Counter()
    for other in run.others.all():
        gone += erase(other)
    for upload in run.uploads.all():
        uploading.discard(upload)
    film = run.clip.film if hasattr(run, "clip") else None
    # Films of other runs that show this one beside them go with it.
    ToldFilm.objects.filter(plan__others__has_key=str(run.pk)).delete()
    number = run.pk
    gone += Counter(run.delete()[1])
    forget(run=number)
    uploading.let_go(film)
    return gone


def erase_rider(rider: Rider) -> Counter[str]:
    """Let a rider go for good, with every run and file; how many rows of each model went."""
    gone: Counter[str] = Counter()
    for run in Run.objects.filter(rider=rider, part_of=None):
        gone += erase(run)
    for run in Run.objects.filter(rider=rider):
        gone += erase(run)
    # What they sent and nobody has judged is in no run.
    Film.objects.filter(sent_in__sender__rider=rider, clips=None).delete()
    number = rider.pk
    users = [a.user for a in rider.accounts.select_related("user")]
    gone += Counter(rider.delete()[1])
    forget(rider=number)
    for user in users:
        # Who came for this rider alone has nothing left to come for; an account holds a name and an address.
        if not hasattr(user, "coach") and not user.rider_accounts.exists():
            forget_user(user)
    return gone


def purge() -> tuple[int, int]:
    """Erase what was removed longer ago than it is kept; how many runs and riders that were."""
    before = timezone.now() - settings.KEPT_REMOVED
    runs, riders = (
        Run.objects.filter(removed_at__lt=before),
        Rider.objects.filter(removed_at__lt=before),
    )
    gone = runs.count(), riders.count()
    for run in runs:
        erase(run)
    for rider in riders:
        erase_rider(rider)
    return gone


def strays() -> list[str]:
    """Names of kept files that no row knows of and that are not on their way in."""
    known = set(file_names())
    old = timezone.now() - STRAY_AFTER
    return sorted(
        name
        for folder in FOLDERS
        for name in _below(folder)
        if name not in known and default_storage.get_modified_time(name) < old
    )


def _below(folder: str) -> Iterator[str]:
    """Names of all files in a folder of the storage; none where there is no such folder."""
    try:
        folders, files = default_storage.listdir(folder)
    except FileNotFoundError:
        return
    yield from (f"{folder}/{name}" for name in files)
    for inner in folders:
        yield from _below(f"{folder}/{inner}")


def sweep() -> int:
    """Delete the strays; how many there were."""
    found = strays()
    for name in found:
        default_storage.delete(name)
    return len(found)
