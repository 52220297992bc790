"""Figures of faults over the API: open to all, told where they are, none where there is none."""

from __future__ import annotations

import pytest
from rest_framework.test import APIClient

pytestmark = pytest.mark.django_db


def test_a_figure_is_given_out_to_anybody_and_disciplines_say_which_there_are(client):
    books = {d["id"]: d for d in client.get("/api/disciplines").json()}
    faults = books["alpine_carve"]["faults"]
    assert faults["not_level"]["figure"]["shows"].startswith("Shoulder tilt")
    assert books["drop_boof"]["faults"]["flips"]["figure"] is None
    assert books["moto_stance"]["has_map"] is False and books["surf_turn"]["has_map"] is True
    nobody = APIClient()
    for address in ("not_level", "not_level?moving=true"):
        answer = nobody.get(f"/api/figures/alpine_carve/{address}")
        assert answer.status_code == 200 and answer["Content-Type"] == "image/webp"
        assert b"".join(answer.streaming_content)[8:12] == b"WEBP"
    for address in ("alpine_carve/nothing", "nothing/not_level", "drop_boof/flips"):
        assert nobody.get(f"/api/figures/{address}").status_code == 404
