"""Sending the link to a Script by mail, where a mail server is set; else a stand-in keeps what would have been sent."""

from __future__ import annotations

import smtplib

from django.conf import settings
from django.contrib.auth.models import User
from django.core.mail import EmailMessage

from proklisis.core.playbook.words import day_words
from proklisis.web.errors import Conflict
from proklisis.web.scripts.models import Mail, Share

SUBJECT = "Your run: what is good, and the one thing"
TEXT = """Hello {rider},

{coach} of {club} has looked at your run. Here is what is good, the one thing to work on, and how to practise it:

{link}

The link works until {until}. Whoever has it can read the page, so pass it on with care.
"""


def send(share: Share, to: str, base: str, by: User) -> Mail:
    """Mail a link; Conflict where the server does not take it. ``base`` is the address of this site."""
    script = share.script
    coach = by.coach.name if hasattr(by, "coach") else by.get_username()
    text = TEXT.format(
        rider=script.run.rider.name, coach=coach, club=script.run.club.name, link=f"{base}/s/{share.token}",
        until=day_words(share.expires.date()),
    )  # fmt: skip
    mail = Mail(
        script=script, to=to, subject=SUBJECT, text=text, by=by, left=bool(settings.EMAIL_HOST)
    )
    if mail.left:
        try:
            EmailMessage(SUBJECT, text, to=[to]).send()
        except (smtplib.SMTPException, OSError) as e:
            raise Conflict(
                f"The mail server did not take it ({e.__class__.__name__}). The link is still there to copy."
            ) from e
    mail.save()
    return mail
