"""What decodes a stranger's file sees that file and no other, no key, and no network."""

from __future__ import annotations

import os
import socket
from pathlib import Path

import pytest

from proklisis.core.errors import InputError
from proklisis.footage import boxed
from proklisis.footage.limited import limited

in_a_box = pytest.mark.skipif(not boxed.has_box(), reason="no box on this system")


def tries_everything(film: Path, out: Path, secret: str, port: int, parent: int) -> dict[str, bool]:
    """As a decoder that was taken over would: what it could do. Strings are no paths that it was given."""

    def does(how) -> bool:
        try:
            how()
        except OSError:
            return False
        return True

    return {
        "reads its film": film.read_bytes() == b"film",
        "writes what it is to write": does(lambda: out.write_bytes(b"made")),
        "changes its film": does(lambda: film.write_bytes(b"other")),
        "reads another file": does(lambda: Path(secret).read_text()),
        "reads the worker's keys": does(lambda: Path(f"/proc/{parent}/environ").read_bytes()),
        "reads passwords of the system": does(lambda: Path("/etc/passwd").read_text()),
        "reaches the database": does(lambda: socket.create_connection(("127.0.0.1", port), 2)),
        "ends the worker": does(lambda: os.kill(parent, 0)),
    }


@in_a_box
def test_a_decoder_that_is_taken_over_reaches_nothing(tmp_path):
    film, secret = tmp_path / "in" / "film.mp4", tmp_path / "elsewhere" / "secret-key"
    for path, text in ((film, "film"), (secret, "key")):
        path.parent.mkdir()
        path.write_text(text)
    out = tmp_path / "out"
    out.mkdir()
    with socket.create_server(("127.0.0.1", 0)) as server:
        could = limited(
            tries_everything, film, out / "copy.mp4", str(secret), server.getsockname()[1], os.getpid(),
            name="film.mp4", seconds=20,
        )  # fmt: skip
    assert {what for what, done in could.items() if done} == {
        "reads its film",
        "writes what it is to write",
    }
    assert (out / "copy.mp4").read_bytes() == b"made" and film.read_text() == "film"


def variables() -> list[str]:
    return sorted(os.environ)


@pytest.mark.parametrize("how", ["0", ""])
def test_no_password_crosses_in_a_box_or_without(monkeypatch, how):
    monkeypatch.setenv("PROKLISIS_BOX", how)
    monkeypatch.setenv("PROKLISIS_DB_PASSWORD", "x")
    monkeypatch.setenv("PROKLISIS_S3_SECRET", "x")
    boxed.has_box.cache_clear()
    seen = limited(variables, name="x", seconds=20)
    boxed.has_box.cache_clear()
    assert "PATH" in seen and not [v for v in seen if "PASSWORD" in v or "SECRET" in v]


def test_where_a_box_is_asked_for_and_cannot_be_nothing_is_decoded(monkeypatch):
    monkeypatch.setenv("PROKLISIS_BOX", "1")
    monkeypatch.setattr(boxed, "ALONE", ("/bin/false",))
    monkeypatch.setattr(boxed, "SYSTEM", ())
    boxed.has_box.cache_clear()
    try:
        with pytest.raises((RuntimeError, InputError)):
            limited(variables, name="x", seconds=20)
    finally:
        boxed.has_box.cache_clear()
