"""Settings of the web application. Everything a deployment changes is read from the environment.

``./start`` writes ``var/env`` with the values of this machine; docs/deployment.md lists them.
"""

from __future__ import annotations

import logging
import os
from datetime import timedelta
from pathlib import Path

from proklisis.web.watching.logs import logging_of

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
# Without a mail server what would be sent is kept and shown in place of being sent.
EMAIL_HOST = os.environ.get("PROKLISIS_MAIL_HOST", "")
EMAIL_PORT = int(os.environ.get("PROKLISIS_MAIL_PORT", "587"))
EMAIL_HOST_USER = os.environ.get("PROKLISIS_MAIL_USER", "")
EMAIL_HOST_PASSWORD = os.environ.get("PROKLISIS_MAIL_PASSWORD", "")
EMAIL_USE_TLS = os.environ.get("PROKLISIS_MAIL_TLS", "1") == "1"
EMAIL_TIMEOUT = 20
if not EMAIL_HOST:
    EMAIL_BACKEND = "django.core.mail.backends.console.EmailBackend"
DEFAULT_FROM_EMAIL = os.environ.get("PROKLISIS_MAIL_FROM", "proklisis@localhost")
ALLOWED_HOSTS = os.environ.get("PROKLISIS_HOSTS", "localhost,127.0.0.1,[::1]").split(",")
CSRF_TRUSTED_ORIGINS = [o for o in os.environ.get("PROKLISIS_ORIGINS", "").split(",") if o]
#: One switch for a server behind HTTPS: secure cookies, the redirect, the browser's memory of it, and the proxy's word for it.
HTTPS = os.environ.get("PROKLISIS_HTTPS") == "1"
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = SECURE_SSL_REDIRECT = HTTPS
if HTTPS:
    # With this name a browser takes a cookie from this very host, over HTTPS, and from no other.
    SESSION_COOKIE_NAME, CSRF_COOKIE_NAME = "__Host-session", "__Host-csrf"
SECURE_HSTS_SECONDS = 365 * 24 * 3600 if HTTPS else 0
SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https") if HTTPS else None
SECURE_REDIRECT_EXEMPT = [r"^(livez|healthz)$"]
#: How many proxies of ours stand before the server: only so many of the addresses that a request names are believed.
PROXIES = int(os.environ.get("PROKLISIS_PROXIES", "1" if HTTPS else "0"))
CSRF_FAILURE_VIEW = "proklisis.web.errors.not_from_here"
SESSION_COOKIE_SAMESITE = CSRF_COOKIE_SAMESITE = "Lax"
SECURE_REFERRER_POLICY = "same-origin"
X_FRAME_OPTIONS = "DENY"

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "axes",
    "allauth",
    "allauth.account",
    "allauth.mfa",
    "allauth.usersessions",
    "allauth.headless",
    "auditlog",
    "rest_framework",
    "drf_spectacular",
    "procrastinate.contrib.django",
    "django_structlog",
    "django_prometheus",
    "dbbackup",
    "proklisis.web.watching",
    "proklisis.web.clubs",
    "proklisis.web.clubbook",
    "proklisis.web.riders",
    "proklisis.web.runs",
    "proklisis.web.goes",
    "proklisis.web.references",
    "proklisis.web.targets",
    "proklisis.web.eye",
    "proklisis.web.analysis",
    "proklisis.web.telling",
    "proklisis.web.scripts",
    "proklisis.web.intake",
    "proklisis.web.desk",
    "proklisis.web.mine",
    "proklisis.web.reckoner",
    "proklisis.web.demo",
    # Last, so that it knows every model: a row that goes takes its files along.
    "django_cleanup.apps.CleanupConfig",
]
MIDDLEWARE = [
    "django_prometheus.middleware.PrometheusBeforeMiddleware",
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "django_structlog.middlewares.RequestMiddleware",
    "proklisis.web.watching.logs.number_of_request",
    "django.middleware.gzip.GZipMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "proklisis.web.security.sessions_end",
    "allauth.account.middleware.AccountMiddleware",
    "allauth.usersessions.middleware.UserSessionsMiddleware",
    "auditlog.middleware.AuditlogMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "proklisis.web.security.content_policy",
    "axes.middleware.AxesMiddleware",
    "django_prometheus.middleware.PrometheusAfterMiddleware",
]
AUTHENTICATION_BACKENDS = [
    "axes.backends.AxesStandaloneBackend",
    "django.contrib.auth.backends.ModelBackend",
]
#: Whoever says this word may make a club with its first owner; empty: nobody may.
NEW_CLUBS = os.environ.get("PROKLISIS_NEW_CLUBS", "")
#: Passwords, second factors and sessions are looked after by allauth, over its JSON interface only.
HEADLESS_ONLY = True
HEADLESS_CLIENTS = ("browser",)
HEADLESS_FRONTEND_URLS = {
    "account_reset_password_from_key": "/new-password/{key}",
    "account_confirm_email": "/account",
    "account_reset_password": "/new-password",
    "account_signup": "/login",
}
ACCOUNT_ADAPTER = "proklisis.web.clubs.adapter.ByInvitation"
ACCOUNT_LOGIN_METHODS = {"username"}
ACCOUNT_SIGNUP_FIELDS = ["username*", "password1*"]
ACCOUNT_EMAIL_VERIFICATION = "none"
# Nobody is written to whom the club does not know.
ACCOUNT_EMAIL_UNKNOWN_ACCOUNTS = False
ACCOUNT_REAUTHENTICATION_TIMEOUT = 900
ACCOUNT_LOGOUT_ON_PASSWORD_CHANGE = False
USERSESSIONS_TRACK_ACTIVITY = True
MFA_ADAPTER = "proklisis.web.clubs.adapter.EncryptedFactors"
MFA_SUPPORTED_TYPES = ["totp", "recovery_codes"]
MFA_TOTP_ISSUER = "Proklisis"
#: A phone's clock may be one step of half a minute off.
MFA_TOTP_TOLERANCE = 1
#: A session ends after so long without a request.
SESSION_COOKIE_AGE = int(os.environ.get("PROKLISIS_IDLE_HOURS", 12)) * 3600
SESSION_SAVE_EVERY_REQUEST = True
#: And after so long whatever is done.
SESSION_LONGEST = timedelta(days=float(os.environ.get("PROKLISIS_SESSION_DAYS", 30)))
#: Who changed what is kept with these rows; columns that are long or change by themselves are left out.
AUDITLOG_INCLUDE_TRACKING_MODELS = (
    {"model": "riders.Rider", "exclude_fields": ["schools", "free"]},
    {"model": "riders.Consent"},
    {"model": "riders.RiderAccount", "include_fields": ["kind", "ended_at"]},
    {"model": "riders.RiderInvitation", "include_fields": ["kind", "withdrawn", "used_at"]},
    {
        "model": "runs.Run",
        "include_fields": [
            "rider",
            "discipline",
            "title",
            "level",
            "view",
            "filmed_fps",
            "filmed_on",
            "removed_at",
            "intention_text",
        ],
    },
    {
        "model": "scripts.Script",
        "include_fields": ["message", "approved_at", "retest_on", "with_telling"],
    },
    {"model": "scripts.Share", "include_fields": ["expires", "withdrawn"]},
    {"model": "scripts.ClubText"},
    {"model": "intake.Intake", "include_fields": ["title", "expires", "answer_by", "withdrawn"]},
    {"model": "references.Reference"},
    {"model": "clubs.Coach", "include_fields": ["role", "name", "left_at"]},
    {"model": "clubs.Place"},
    {"model": "clubs.Invitation", "include_fields": ["role", "withdrawn", "used_at"]},
)
#: After so many wrong passwords for a name from one address that pair waits; it is kept in the database, whatever process answers.
AXES_FAILURE_LIMIT = 8
AXES_COOLOFF_TIME = timedelta(minutes=15)
AXES_LOCKOUT_PARAMETERS = [["username", "ip_address"]]
AXES_RESET_ON_SUCCESS = True
AXES_CLIENT_IP_CALLABLE = "proklisis.web.security.address_of"
AXES_LOCKOUT_CALLABLE = "proklisis.web.errors.too_many"
AXES_VERBOSE = False
#: What was removed can be brought back for so long; then it goes, with its files.
KEPT_REMOVED = timedelta(days=30)
ROOT_URLCONF = "proklisis.web.urls"
WSGI_APPLICATION = "proklisis.web.wsgi.application"
TEMPLATES = [{"BACKEND": "django.template.backends.django.DjangoTemplates", "APP_DIRS": True}]

#: 1: between us and the database stands a pool that gives a connection for one transaction, as PgBouncer may.
POOLED = os.environ.get("PROKLISIS_DB_POOLED") == "1"
DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.postgresql",
        "NAME": os.environ.get("PROKLISIS_DB_NAME", "proklisis"),
        "USER": os.environ.get("PROKLISIS_DB_USER", "proklisis"),
        "PASSWORD": os.environ.get("PROKLISIS_DB_PASSWORD", ""),
        "HOST": os.environ.get("PROKLISIS_DB_HOST", "127.0.0.1"),
        "PORT": os.environ.get("PROKLISIS_DB_PORT", "54329"),
        "CONN_HEALTH_CHECKS": True,
        "CONN_MAX_AGE": 0 if POOLED else 60,
        "DISABLE_SERVER_SIDE_CURSORS": POOLED,
        # A list is read in less time than PostgreSQL takes to compile its query. Behind a pooler it is said to the database itself.
        "OPTIONS": {"prepare_threshold": None} if POOLED else {"options": "-c jit=off"},
    }
}
#: What all web servers and workers share, so that a limit is one limit however many there are.
CACHES = {
    "default": {
        "BACKEND": "django.core.cache.backends.db.DatabaseCache",
        "LOCATION": "shared_cache",
        "OPTIONS": {"MAX_ENTRIES": 20_000},
    }
}
#: Backups are written by PostgreSQL's own program and read by it.
DBBACKUP_CONNECTORS = {"default": {"CONNECTOR": "dbbackup.db.postgresql.PgDumpBinaryConnector"}}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"
AUTH_PASSWORD_VALIDATORS = [
    {
        "NAME": "django.contrib.auth.password_validation.MinimumLengthValidator",
        "OPTIONS": {"min_length": 12},
    },
    {"NAME": "django.contrib.auth.password_validation.CommonPasswordValidator"},
    {"NAME": "django.contrib.auth.password_validation.UserAttributeSimilarityValidator"},
    {"NAME": "django.contrib.auth.password_validation.NumericPasswordValidator"},
]

LANGUAGE_CODE = "en-gb"
TIME_ZONE = "UTC"
USE_TZ = True

FRONTEND = ROOT / "frontend" / "dist"
STATIC_URL = "/static/"
WHITENOISE_ROOT = FRONTEND if FRONTEND.exists() else None
WHITENOISE_IMMUTABLE_FILE_TEST = r"^/assets/.+$"
MEDIA_ROOT = Path(os.environ.get("PROKLISIS_MEDIA", VAR / "media"))
#: A store of objects (S3 and whatever speaks as it does) in place of a folder: its bucket, address, region and keys.
S3 = {
    name: value
    for name, variable in {
        "bucket_name": "BUCKET", "endpoint_url": "ENDPOINT", "region_name": "REGION", "access_key": "KEY", "secret_key": "SECRET",
    }.items()
    if (value := os.environ.get(f"PROKLISIS_S3_{variable}", ""))
}  # fmt: skip
STORAGES: dict[str, dict[str, object]] = {
    "default": {
        "BACKEND": "storages.backends.s3.S3Storage",
        "OPTIONS": {**S3, "file_overwrite": False, "default_acl": None, "addressing_style": "path", "signature_version": "s3v4"},
    }
    if "bucket_name" in S3
    else {"BACKEND": "django.core.files.storage.FileSystemStorage"},
    "staticfiles": {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"},
}  # fmt: skip
#: 1: a proxy before us sends films itself when it is told where they lie (X-Accel-Redirect; docs/nginx.conf).
ACCEL = os.environ.get("PROKLISIS_ACCEL") == "1"
#: Clips are streamed to disk; only this much of an upload is ever held in memory.
FILE_UPLOAD_MAX_MEMORY_SIZE = 2 * 1024 * 1024
LARGEST_UPLOAD = int(os.environ.get("PROKLISIS_LARGEST_UPLOAD", 2 * 1024**3))
#: Room for a club's clips, bytes, and how many of its files may be on their way at once.
CLUB_ROOM = int(os.environ.get("PROKLISIS_CLUB_ROOM_GB", 500)) * 1024**3
MOST_UPLOADS = 40
LARGEST_TRACKS = 200 * 1024**2

REST_FRAMEWORK = {
    "DEFAULT_AUTHENTICATION_CLASSES": ["rest_framework.authentication.SessionAuthentication"],
    "DEFAULT_PERMISSION_CLASSES": ["proklisis.web.clubs.access.IsCoach"],
    "DEFAULT_RENDERER_CLASSES": ["rest_framework.renderers.JSONRenderer"],
    "DEFAULT_PARSER_CLASSES": [
        "proklisis.web.plain.PlainJSONParser",
        "rest_framework.parsers.MultiPartParser",
    ],
    "NUM_PROXIES": PROXIES,
    "DEFAULT_SCHEMA_CLASS": "drf_spectacular.openapi.AutoSchema",
    "DEFAULT_PAGINATION_CLASS": "proklisis.web.plain.Pages",
    "PAGE_SIZE": 50,
    "EXCEPTION_HANDLER": "proklisis.web.errors.plain_errors",
    "DEFAULT_THROTTLE_RATES": {
        "login": "10/minute",
        "shared": "120/minute",
        "mail": "30/hour",
        "pieces": "600/minute",
        "senders": "300/hour",
    },
}
SPECTACULAR_SETTINGS = {
    "TITLE": "Proklisis API",
    "DESCRIPTION": "Riders, runs, the Bench and Scripts of one club.",
    "VERSION": "1",
    "SERVE_INCLUDE_SCHEMA": False,
    "COMPONENT_SPLIT_REQUEST": True,
    "OAS_VERSION": "3.1.0",
    "ENUM_NAME_OVERRIDES": {
        "LevelEnum": "proklisis.web.riders.models.LEVELS",
        "RunStateEnum": "proklisis.web.runs.models.Run.State",
        "SentStateEnum": "proklisis.web.intake.models.Sent.State",
        "ViewEnum": "proklisis.web.runs.models.VIEWS",
        "DoubtKindEnum": ["view", "front_foot", "rate"],
        "SurenessEnum": ["clear", "likely", "unclear"],
        "FollowedEnum": ["in_band", "better", "no_change", "worse", "cannot_tell"],
        "AgreedEnum": "proklisis.web.riders.models.Agreed",
        "SetByEnum": ["auto", "coach"],
        "ChosenByEnum": ["software", "coach"],
    },
}
#: Lines for people, or JSON for a machine that collects them; with requests that were answered well, or without.
LOGGING = logging_of(
    as_json=os.environ.get("PROKLISIS_LOG") == "json",
    level_of_requests="INFO" if os.environ.get("PROKLISIS_LOG_REQUESTS") == "1" else "ERROR",
)
DJANGO_STRUCTLOG_STATUS_4XX_LOG_LEVEL = logging.INFO
#: Where errors are reported to, by kind and place and without a name; nowhere unless it is said.
REPORT_TO = os.environ.get("PROKLISIS_REPORT_TO", "")
#: What a server that collects figures must know; without it there are none.
METRICS_TOKEN = os.environ.get("PROKLISIS_METRICS_TOKEN", "")
PROCRASTINATE_ON_APP_READY = "proklisis.web.watching.failing.around_jobs"
