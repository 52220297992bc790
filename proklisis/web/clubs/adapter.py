"""How accounts come to be: by a club's invitation, and in no other way."""

from __future__ import annotations

from typing import Any

from allauth.account.adapter import DefaultAccountAdapter


class ByInvitation(DefaultAccountAdapter):  # type: ignore[misc]
    def is_open_for_signup(self, request: Any) -> bool:
        """Nobody signs up by themselves."""
        return False
