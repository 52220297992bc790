"""Making a film that was asked for: by a job, with progress, stopped when nobody wants it any more."""

from __future__ import annotations

import logging
import tempfile
from collections.abc import Callable
from pathlib import Path

from django.core.files import File

from proklisis.core.errors import InputError
from proklisis.footage.limited import limited
from proklisis.web.runs.models import MadeFilm
from proklisis.web.watching.failing import keep

logger = logging.getLogger(__name__)


class Cancelled(Exception):
    """The coach does not want the film any more."""


def make_film(film: MadeFilm, name: str, seconds: float, work: Callable[..., None], *args: object) -> None:  # fmt: skip
    """Have ``work(*args, out)`` write a film in a process of its own, and keep it with ``film``.

    ``name`` is what errors call it; ``seconds`` the processor time that it may take.
    """
    rows = type(film)._default_manager.filter(pk=film.pk)
    rows.update(state=MadeFilm.State.WORKING, progress=0.0)

    def progress(share: float) -> None:
        if not rows.filter(cancel_asked=False).update(progress=share):
            raise Cancelled

    def still_wanted() -> None:
        if not rows.filter(cancel_asked=False).exists():
            raise Cancelled

    with tempfile.TemporaryDirectory() as folder:
        out = Path(folder) / "film.mp4"
        try:
            limited(work, *args, out, name=name, seconds=seconds, progress=progress, alive=still_wanted)  # fmt: skip
        except Cancelled:
            rows.update(state=MadeFilm.State.CANCELLED)
            return
        except InputError as e:
            rows.update(state=MadeFilm.State.FAILED, problem=str(e)[:500])
            return
        except RuntimeError as e:
            logger.exception("film %s", name)
            keep(e)
            rows.update(
                state=MadeFilm.State.FAILED, problem="The film could not be made. Try again; if it fails again, keep a still."
            )  # fmt: skip
            return
        with out.open("rb") as made:
            film.file.save("film.mp4", File(made), save=False)
    done = rows.filter(cancel_asked=False).update(
        state=MadeFilm.State.READY, progress=1.0, file=film.file.name
    )
    if not done:
        film.file.storage.delete(film.file.name or "")
        rows.update(state=MadeFilm.State.CANCELLED)


def give_up(kind: type[MadeFilm], film_id: int) -> None:
    """Say of a film whose worker was lost again and again that it could not be made."""
    kind._default_manager.filter(pk=film_id, state__in=(MadeFilm.State.QUEUED, MadeFilm.State.WORKING)).update(
        state=MadeFilm.State.FAILED, problem="The film could not be made: its worker was stopped each time. Try again."
    )  # fmt: skip
