"""Settings of the web application. Everything a deployment changes is read from the environment.

``./start`` writes ``var/env`` with the values of this machine; docs/deployment.md lists them.
"""

from __future__ import annotations

import os
from pathlib import Path

ROOT = Path(__file__).resolve().parents[2]
VAR = Path(os.environ.get("PROKLISIS_VAR", ROOT / "var"))


def _secret() -> str:
    """The signing key: from the environment, else one made for this machine and kept in ``var``."""
    if key := os.environ.get("PROKLISIS_SECRET_KEY"):
        return key
    path = VAR / "secret-key"
    if not path.exists():
        from django.core.management.utils import get_random_secret_key

        VAR.mkdir(parents=True, exist_ok=True)
        path.write_text(get_random_secret_key(), "utf-8")
        path.chmod(0o600)
    return path.read_text("utf-8")


SECRET_KEY = _secret()
DEBUG = os.environ.get("PROKLISIS_DEBUG") == "1"
ALLOWED_HOSTS = os.environ.get("PROKLISIS_HOSTS", "localhost,127.0.0.1,[::1]").split(",")
CSRF_TRUSTED_ORIGINS = [o for o in os.environ.get("PROKLISIS_ORIGINS", "").split(",") if o]
SECURE_COOKIES = os.environ.get("PROKLISIS_HTTPS") == "1"
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = SECURE_COOKIES
SESSION_COOKIE_SAMESITE = CSRF_COOKIE_SAMESITE = "Lax"
SECURE_REFERRER_POLICY = "same-origin"
X_FRAME_OPTIONS = "DENY"

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "rest_framework",
    "drf_spectacular",
    "procrastinate.contrib.django",
    "proklisis.web.clubs",
    "proklisis.web.riders",
    "proklisis.web.runs",
    "proklisis.web.scripts",
    "proklisis.web.demo",
]
MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "django.middleware.gzip.GZipMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "proklisis.web.security.content_policy",
]
ROOT_URLCONF = "proklisis.web.urls"
WSGI_APPLICATION = "proklisis.web.wsgi.application"
TEMPLATES = [{"BACKEND": "django.template.backends.django.DjangoTemplates", "APP_DIRS": True}]

DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.postgresql",
        "NAME": os.environ.get("PROKLISIS_DB_NAME", "proklisis"),
        "USER": os.environ.get("PROKLISIS_DB_USER", "proklisis"),
        "PASSWORD": os.environ.get("PROKLISIS_DB_PASSWORD", ""),
        "HOST": os.environ.get("PROKLISIS_DB_HOST", "127.0.0.1"),
        "PORT": os.environ.get("PROKLISIS_DB_PORT", "54329"),
        "CONN_HEALTH_CHECKS": True,
        "CONN_MAX_AGE": 60,
    }
}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": "django.contrib.auth.password_validation.MinimumLengthValidator"},
    {"NAME": "django.contrib.auth.password_validation.CommonPasswordValidator"},
]

LANGUAGE_CODE = "en-gb"
TIME_ZONE = "UTC"
USE_TZ = True

FRONTEND = ROOT / "frontend" / "dist"
STATIC_URL = "/static/"
WHITENOISE_ROOT = FRONTEND if FRONTEND.exists() else None
MEDIA_ROOT = Path(os.environ.get("PROKLISIS_MEDIA", VAR / "media"))
#: Clips are streamed to disk; only this much of an upload is ever held in memory.
FILE_UPLOAD_MAX_MEMORY_SIZE = 2 * 1024 * 1024
LARGEST_UPLOAD = int(os.environ.get("PROKLISIS_LARGEST_UPLOAD", 2 * 1024**3))
LARGEST_TRACKS = 200 * 1024**2

REST_FRAMEWORK = {
    "DEFAULT_AUTHENTICATION_CLASSES": ["rest_framework.authentication.SessionAuthentication"],
    "DEFAULT_PERMISSION_CLASSES": ["proklisis.web.clubs.access.IsCoach"],
    "DEFAULT_RENDERER_CLASSES": ["rest_framework.renderers.JSONRenderer"],
    "DEFAULT_PARSER_CLASSES": ["rest_framework.parsers.JSONParser", "rest_framework.parsers.MultiPartParser"],
    "DEFAULT_SCHEMA_CLASS": "drf_spectacular.openapi.AutoSchema",
    "DEFAULT_PAGINATION_CLASS": "rest_framework.pagination.LimitOffsetPagination",
    "PAGE_SIZE": 50,
    "EXCEPTION_HANDLER": "proklisis.web.errors.plain_errors",
    "DEFAULT_THROTTLE_RATES": {"login": "10/minute"},
}
SPECTACULAR_SETTINGS = {
    "TITLE": "Proklisis API",
    "DESCRIPTION": "Riders, runs, the Bench and Scripts of one club.",
    "VERSION": "1",
    "SERVE_INCLUDE_SCHEMA": False,
    "COMPONENT_SPLIT_REQUEST": True,
    "ENUM_NAME_OVERRIDES": {
        "LevelEnum": "proklisis.web.riders.models.LEVELS",
        "RunStateEnum": "proklisis.web.runs.models.Run.State",
        "ViewEnum": "proklisis.web.runs.models.VIEWS",
    },
}
LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "formatters": {"line": {"format": "%(asctime)s %(levelname)s %(name)s: %(message)s"}},
    "handlers": {"console": {"class": "logging.StreamHandler", "formatter": "line"}},
    "root": {"handlers": ["console"], "level": "WARNING"},
    "loggers": {"proklisis": {"level": "INFO"}},
}
