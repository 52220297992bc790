"""What kind of file this is, from its first bytes and without opening it as a video."""

from __future__ import annotations

from pathlib import Path

from proklisis.core.errors import InputError

#: What a coach may send, and the one reader that is let loose on each. A reader that is chosen by the
#: file's own bytes cannot be tricked into a playlist that opens other files.
ENDINGS = (".mp4", ".mov", ".m4v", ".mkv", ".webm", ".avi")
ACCEPTED = "MP4, MOV, MKV, WebM or AVI"
#: (first bytes, where they stand, what it is)
OTHERS: tuple[tuple[bytes, int, str], ...] = (
    (b"PK\x03\x04", 0, "a ZIP archive"), (b"Rar!", 0, "a RAR archive"), (b"7z\xbc\xaf", 0, "a 7z archive"),
    (b"\x1f\x8b", 0, "a compressed archive"), (b"%PDF", 0, "a PDF document"), (b"\xff\xd8\xff", 0, "a JPEG picture"),
    (b"\x89PNG", 0, "a PNG picture"), (b"GIF8", 0, "a GIF picture"), (b"ID3", 0, "a sound file"),
    (b"OggS", 0, "an Ogg file"), (b"fLaC", 0, "a sound file"), (b"#EXTM3U", 0, "a playlist"),
    (b"WAVE", 8, "a sound file"), (b"WEBP", 8, "a WebP picture"), (b"FLV", 0, "an FLV file"),
)  # fmt: skip
#: Boxes that may stand first in an MP4 or MOV.
FIRST_BOXES = (b"ftyp", b"moov", b"mdat", b"wide", b"free", b"skip", b"pnot", b"uuid")


def container(path: Path, name: str = "") -> str:
    """Return the reader for a file: ``mov`` (MP4, MOV), ``matroska`` (MKV, WebM) or ``avi``.

    Raises InputError, calling the file ``name``, when it is missing, empty or no video container.
    """
    name = name or path.name
    try:
        with path.open("rb") as f:
            return container_of(f.read(64), name)
    except FileNotFoundError as e:
        raise InputError("there is no such file", name, "check its name") from e
    except OSError as e:
        raise InputError(f"the file cannot be read ({e.strerror})", name, "check its name") from e


def container_of(first: bytes, name: str) -> str:
    """As :func:`container`, from the first 64 bytes of a file."""
    if not first:
        raise InputError("the file is empty", name, "send it again; the upload may have broken off")
    if first[4:8] in FIRST_BOXES:
        if first[8:12] in (b"heic", b"heix", b"mif1", b"avif"):
            raise InputError(
                "this is a still picture", name, f"send the video itself as {ACCEPTED}"
            )
        return "mov"
    if first.startswith(b"\x1a\x45\xdf\xa3"):
        return "matroska"
    if first.startswith(b"RIFF") and first[8:12] == b"AVI ":
        return "avi"
    what = next(
        (words for magic, at, words in OTHERS if first[at : at + len(magic)] == magic), None
    )
    if what:
        raise InputError(
            f"this is {what}, not a video", name, f"send the video itself as {ACCEPTED}"
        )
    raise InputError(
        "this is not a video that can be opened",
        name,
        f"send the {ACCEPTED} from the camera itself",
    )
