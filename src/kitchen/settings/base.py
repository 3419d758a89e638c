"""Settings that apply everywhere. Secrets come from the environment."""

from __future__ import annotations

import datetime as dt
import os
from pathlib import Path

from csp.constants import NONE, SELF
from django.core.exceptions import ImproperlyConfigured

from kitchen.logs import logging_config

from .databases import databases

ROOT = Path(os.environ.get("EMBER_ROOT", Path(__file__).resolve().parents[3]))
LOCAL = Path(os.environ.get("EMBER_LOCAL", ROOT / ".local"))

SECRET_KEY = os.environ["EMBER_SECRET_KEY"]
DEBUG = False
ALLOWED_HOSTS = ["127.0.0.1", "localhost"]

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.messages",
    "django.contrib.postgres",
    "django.contrib.staticfiles",
    "axes",
    "django_htmx",
    "procrastinate.contrib.django",
    "kitchen",
    "kitchen.database",
    "kitchen.worker",
    "kitchen.backup",
    "kitchen.accounts",
    "kitchen.kit",
    "kitchen.plans",
    "kitchen.line",
    "kitchen.eggs",
    "kitchen.batches",
    "kitchen.services",
    "kitchen.book",
    "kitchen.groups",
    "kitchen.faces",
    "kitchen.learning",
    "kitchen.practice",
    "kitchen.brines",
    "kitchen.logbook",
    "kitchen.standards",
    "kitchen.cuts",
    "kitchen.demo",
    "kitchen.setup",
    "kitchen.today",
]

MIDDLEWARE = [
    "kitchen.logs.RequestIdMiddleware",
    "kitchen.health.metrics.MeasureMiddleware",
    "kitchen.work.WorkMiddleware",
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "django.middleware.gzip.GZipMiddleware",
    "csp.middleware.CSPMiddleware",
    "kitchen.accounts.sessions.OwnSessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "kitchen.accounts.signing_in.SignInMiddleware",
    "django.contrib.messages.middleware.MessageMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "django_htmx.middleware.HtmxMiddleware",
    "kitchen.accounts.privacy.PrivacyMiddleware",
    "kitchen.accounts.middleware.KitchenMiddleware",
    "kitchen.line.queued_taps.KeptTapsMiddleware",
    "kitchen.accounts.once.OnceMiddleware",
    "kitchen.errors.NotAllowedMiddleware",
    "kitchen.today.middleware.BackToTodayMiddleware",
    "axes.middleware.AxesMiddleware",
]

ROOT_URLCONF = "kitchen.urls"
WSGI_APPLICATION = "kitchen.wsgi.application"

TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "APP_DIRS": True,
        "OPTIONS": {
            "context_processors": [
                "django.template.context_processors.request",
                "django.contrib.auth.context_processors.auth",
                "django.contrib.messages.context_processors.messages",
                "kitchen.accounts.middleware.kitchen",
                "kitchen.places.places",
            ],
            "builtins": ["kitchen.units.templatetags.units", "kitchen.accounts.templatetags.once"],
        },
    }
]

FORM_RENDERER = "kitchen.units.renderer.StraightRenderer"

DATABASES = databases(os.environ)
DATABASE_ROUTERS = ["kitchen.database.standby.Router"]
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"

AUTH_USER_MODEL = "accounts.Person"
AUTHENTICATION_BACKENDS = ["axes.backends.AxesStandaloneBackend", "kitchen.accounts.backends.MemberBackend"]
PASSWORD_HASHERS = ["django.contrib.auth.hashers.Argon2PasswordHasher"]
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": "django.contrib.auth.password_validation.MinimumLengthValidator", "OPTIONS": {"min_length": 10}},
    {"NAME": "django.contrib.auth.password_validation.CommonPasswordValidator"},
    {"NAME": "django.contrib.auth.password_validation.UserAttributeSimilarityValidator"},
]
LOGIN_URL = "accounts:sign-in"
LOGIN_REDIRECT_URL = "home"
LOGOUT_REDIRECT_URL = "accounts:sign-in"
SESSION_COOKIE_AGE = 60 * 60 * 16  # one working day: a tablet at the stove must not fall asleep in service
SESSION_COOKIE_HTTPONLY = True
SESSION_COOKIE_SAMESITE = "Lax"
CSRF_FAILURE_VIEW = "kitchen.errors.csrf_failure"

AXES_FAILURE_LIMIT = 8
AXES_COOLOFF_TIME = dt.timedelta(minutes=15)
AXES_CLIENT_IP_CALLABLE = "kitchen.accounts.lockouts.address_of"
TRUSTED_PROXIES = [address for address in os.environ.get("EMBER_PROXIES", "").split(",") if address]
AXES_LOCKOUT_PARAMETERS = [["username", "ip_address"]]
AXES_LOCKOUT_TEMPLATE = "accounts/locked.html"
AXES_RESET_ON_SUCCESS = True

CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": [NONE],
        "script-src": [SELF],
        "style-src": [SELF],
        "font-src": [SELF],
        "img-src": [SELF, "data:"],  # Bootstrap's own images and the heat strip
        "connect-src": [SELF],
        "form-action": [SELF],
        "manifest-src": [SELF],
        "worker-src": [SELF],
        "base-uri": [NONE],
        "frame-ancestors": [NONE],
    }
}
CACHES = {
    "default": {"BACKEND": "django.core.cache.backends.locmem.LocMemCache"},
    # Boards that one process rendered, for the others of its host; between hosts see line/board_listener.
    "boards": {"BACKEND": "django.core.cache.backends.filebased.FileBasedCache", "LOCATION": LOCAL / "boards"},
}
SECURE_REFERRER_POLICY = "same-origin"
X_FRAME_OPTIONS = "DENY"

LANGUAGE_CODE = "en-gb"
USE_I18N = False
USE_TZ = True
TIME_ZONE = "UTC"

STATIC_URL = "/static/"
STATIC_ROOT = LOCAL / "static"
STORAGES = {
    "default": {"BACKEND": "django.core.files.storage.FileSystemStorage"},
    "staticfiles": {"BACKEND": "kitchen.static_storage.StaticStorage"},
}

# The key that signs the heads of chains, outside the database; those that were ever ours; where heads are kept besides.
ANCHOR_KEY = os.environ.get("EMBER_ANCHOR_KEY", str(LOCAL / "anchor-key.pem"))
ANCHOR_KEYS = os.environ.get("EMBER_ANCHOR_KEYS", str(LOCAL / "anchor-keys.txt"))
ANCHOR_FILE = os.environ.get("EMBER_ANCHOR_FILE", str(LOCAL / "anchors.jsonl"))
ANCHOR_URL = os.environ.get("EMBER_ANCHOR_URL", "")
if ANCHOR_URL and not ANCHOR_URL.startswith("https://"):
    raise ImproperlyConfigured("EMBER_ANCHOR_URL has to begin with https://")
BACKUPS = os.environ.get("EMBER_BACKUPS", str(LOCAL / "backups"))
# Photographs of cut faces: files that several hosts of one installation have to share, and how much a kitchen may keep.
FILES = os.environ.get("EMBER_FILES", str(LOCAL / "files"))
PHOTOS = str(Path(FILES) / "faces")
PHOTO_QUOTA_B = int(os.environ.get("EMBER_PHOTO_QUOTA_MB", "2000")) * 1_000_000

DATA_UPLOAD_MAX_MEMORY_SIZE = 2_500_000
DATA_UPLOAD_MAX_NUMBER_FIELDS = 2000

HEARTBEAT_S = 5.0

# Done work leaves no trace: the forecasts are the trace.
# What takes long shares one lock, and planning another, so that a place is always free for forecasts.
PROCRASTINATE_WORKER_DEFAULTS = {"concurrency": 3, "delete_jobs": "always", "update_heartbeat_interval": HEARTBEAT_S}
PLANNING_AT_ONCE = False  # True: without a worker, within the request, for tests and the demonstration's data

LOGGING = logging_config(os.environ.get("EMBER_LOG_LEVEL", "WARNING"))
