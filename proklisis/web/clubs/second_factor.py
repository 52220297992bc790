"""The second factor of an account, as allauth keeps it: codes of an authenticator, and recovery codes."""

from __future__ import annotations

from typing import Any

from allauth.mfa.models import Authenticator
from allauth.mfa.recovery_codes.internal.auth import RecoveryCodes
from allauth.mfa.totp.internal.auth import TOTP


def asked_of(user: Any) -> bool:
    """Whether logging in asks this user for a code."""
    return bool(Authenticator.objects.filter(user=user.pk, type=Authenticator.Type.TOTP).exists())


def is_right(user: Any, code: str) -> bool:
    """Whether a code is the one that is shown now and was not used yet, or a recovery code; that one is then used up."""
    code = code.replace(" ", "")
    for row in Authenticator.objects.filter(user=user.pk):
        if row.type == Authenticator.Type.TOTP:
            right = TOTP(row).validate_code(code)
        elif row.type == Authenticator.Type.RECOVERY_CODES:
            right = RecoveryCodes(row).validate_code(code)
        else:
            right = False
        if right:
            row.record_usage()
            return True
    return False
