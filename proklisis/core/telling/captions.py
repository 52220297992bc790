"""Captions as WebVTT, the text beside a film (W3C, *WebVTT: The Web Video Text Tracks Format*)."""

from __future__ import annotations

import re

from proklisis.core.shapes.telling import Caption

#: A caption is read at so many words a second, after a moment (house choice).
WORDS_A_S, MOMENT_S, LEAST_S = 2.6, 0.6, 2.5


def reading_s(text: str) -> float:
    """How long a caption has to stand to be read, seconds."""
    return max(LEAST_S, MOMENT_S + len(text.split()) / WORDS_A_S)


def webvtt(captions: list[Caption]) -> str:
    """The text of a WebVTT file."""
    cues = [f"{_clock(c['from_s'])} --> {_clock(c['to_s'])}\n{_plain(c['text'])}" for c in captions]
    return "\n\n".join(["WEBVTT", *cues]) + "\n"


def _clock(s: float) -> str:
    ms = round(1000 * s)
    return f"{ms // 3_600_000:02}:{ms // 60_000 % 60:02}:{ms // 1000 % 60:02}.{ms % 1000:03}"


def _plain(text: str) -> str:
    """A cue's text: no empty lines, and nothing that would be read as a tag or an arrow."""
    lines = [line.strip() for line in text.splitlines() if line.strip()]
    out = "\n".join(lines).replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;")
    return re.sub(r"\n{2,}", "\n", out)
