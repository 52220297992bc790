"""Addresses that open something to whoever holds them."""

from __future__ import annotations

import re

#: Pages and answers that hold a token in their address.
SHARED = re.compile(
    r"/(s|send|sent|join|new-password|api/(?:shared|asked|sent|calendar|invitations))/[^/?\s]+"
)
