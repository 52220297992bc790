"""How accounts come to be: by a club's invitation, and in no other way."""

from __future__ import annotations

from base64 import urlsafe_b64encode
from functools import cache
from typing import Any

from allauth.account.adapter import DefaultAccountAdapter
from allauth.mfa.adapter import DefaultMFAAdapter
from cryptography.fernet import Fernet
from cryptography.hazmat.primitives.hashes import SHA256
from cryptography.hazmat.primitives.kdf.hkdf import HKDF
from django.conf import settings


class ByInvitation(DefaultAccountAdapter):  # type: ignore[misc]
    def is_open_for_signup(self, request: Any) -> bool:
        """Nobody signs up by themselves."""
        return False


#: How what was encrypted here begins; what was kept before has no such beginning.
ENCRYPTED = "f1:"


@cache
def _cipher(secret: str) -> Fernet:
    """The cipher of a server (Fernet: AES-128 in CBC with HMAC-SHA-256), its key derived from the signing key by HKDF (RFC 5869)."""
    key = HKDF(SHA256(), 32, salt=None, info=b"second factors").derive(secret.encode())
    return Fernet(urlsafe_b64encode(key))


class EncryptedFactors(DefaultMFAAdapter):  # type: ignore[misc]
    """Secrets of second factors lie encrypted in the database: whoever reads a backup alone has no codes."""

    def encrypt(self, text: str) -> str:
        return ENCRYPTED + _cipher(settings.SECRET_KEY).encrypt(text.encode()).decode()

    def decrypt(self, encrypted_text: str) -> str:
        if not encrypted_text.startswith(ENCRYPTED):
            return encrypted_text
        kept = encrypted_text.removeprefix(ENCRYPTED).encode()
        return _cipher(settings.SECRET_KEY).decrypt(kept).decode()
