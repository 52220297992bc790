"""What a rider reads first, as plain HTML in the page itself: there before any script, and without one."""

from __future__ import annotations

from django.template.loader import render_to_string
from rest_framework.exceptions import NotFound

from proklisis.web.scripts.shared import reads_feet, script_in_feet, shared_by


def first_view(token: str) -> str:
    """The first view of the page that a link shows; empty for a link that does not work."""
    try:
        script = shared_by(token).script
    except NotFound:
        return ""
    body = script.approved
    assert body is not None
    if reads_feet(script):
        body = script_in_feet(body)
    by = script.approved_by
    words = {
        "rider": script.run.rider.name,
        "coach": by.coach.name if by and hasattr(by, "coach") else "",
        "club": script.run.club.name,
        "message": body["message"],
        "strengths": body["prescription"]["strengths"],
        "main": body["prescription"]["main"],
        "nothing_words": body["nothing_words"],
        "cautions": body["prescription"]["cautions"],
    }
    return render_to_string("scripts/first.html", words)
