"""Headers that keep a page to its own scripts, styles, pictures and data, and keep its answers out of other places."""

from __future__ import annotations

import secrets
import time
from collections.abc import Callable

from django.conf import settings
from django.contrib.auth import logout
from django.http import HttpRequest, HttpResponse

from proklisis.web.shared_links import SHARED

#: When a session began, seconds since 1970; kept in it.
BEGAN = "began"
POLICY = (
    "default-src 'self'; script-src 'self'; style-src 'self' 'nonce-{nonce}'; style-src-attr 'none'; img-src 'self' blob: data:; "
    "media-src 'self' blob:; connect-src 'self'; font-src 'self'; worker-src 'self' blob:; object-src 'none'; "
    "base-uri 'none'; frame-ancestors 'none'; form-action 'self'"
)


def content_policy(
    get_response: Callable[[HttpRequest], HttpResponse],
) -> Callable[[HttpRequest], HttpResponse]:
    """Middleware that adds the content policy to every answer, and says what may be kept of it and found."""

    def middleware(request: HttpRequest) -> HttpResponse:
        nonce = secrets.token_urlsafe(16)
        request.csp_nonce = nonce  # type: ignore[attr-defined]
        response = get_response(request)
        response.headers.setdefault("Content-Security-Policy", POLICY.format(nonce=nonce))
        if request.path.startswith("/api/"):
            response.headers.setdefault("Cache-Control", "no-store")
        if SHARED.match(request.path):
            response.headers["X-Robots-Tag"] = "noindex, nofollow"
            response.headers["Referrer-Policy"] = "no-referrer"
        return response

    return middleware


def sessions_end(
    get_response: Callable[[HttpRequest], HttpResponse],
) -> Callable[[HttpRequest], HttpResponse]:
    """Middleware that ends a session when it is as old as one may become, however much it is used."""

    def middleware(request: HttpRequest) -> HttpResponse:
        if request.user.is_authenticated:
            now = time.time()
            began = request.session.setdefault(BEGAN, now)
            if now - began > settings.SESSION_LONGEST.total_seconds():
                logout(request)
        return get_response(request)

    return middleware


def address_of(request: HttpRequest) -> str:
    """The address that a request came from, as far as our own proxies vouch for it; whatever else it says is not believed."""
    own = str(request.META.get("REMOTE_ADDR", ""))
    named = [
        a.strip() for a in request.META.get("HTTP_X_FORWARDED_FOR", "").split(",") if a.strip()
    ]
    return named[-min(settings.PROXIES, len(named))] if settings.PROXIES and named else own
