"""What a rider, or their guardian, agrees to: by kind, said by somebody on a day; the last word holds."""

from __future__ import annotations

from typing import Any

from django.db import transaction

from proklisis.web.riders.models import Agreed, Rider


def note(rider: Rider, kind: Agreed, given: bool, by: Any, person: str = "", text: str = "") -> None:  # fmt: skip
    """Keep a word on one kind. A link alone (``by`` none) opens nothing again that somebody has withdrawn.

    What rests on a withdrawn one is ended by :func:`proklisis.web.riders.ending.end`.
    """
    with transaction.atomic():
        rider.agreed = Rider.objects.select_for_update().values_list("agreed", flat=True).get(pk=rider.pk)  # fmt: skip
        rider.consents.create(kind=kind, given=given, by=by, person=person, text=text)
        if by is None and rider.agreed.get(kind) is False:
            return
        rider.agreed = {**rider.agreed, kind.value: given}
        if kind == Agreed.SHARE:
            rider.guardian_consent = given
        rider.save(update_fields=["agreed", "guardian_consent"])
