"""Tests: quick password hashing, static files under their own names."""

import tempfile

from .base import *  # noqa: F403
from .base import DATABASES

DATABASES["default"]["CONN_MAX_AGE"] = 0  # a live server's threads must not hold the test database open
DATABASES["default"]["OPTIONS"] = {"connect_timeout": 60}  # a busy machine is no fault

PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
STORAGES = {
    "default": {"BACKEND": "django.core.files.storage.FileSystemStorage"},
    "staticfiles": {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"},
}
CACHES = {
    "default": {"BACKEND": "django.core.cache.backends.locmem.LocMemCache"},
    "boards": {"BACKEND": "django.core.cache.backends.dummy.DummyCache"},
}
WHITENOISE_AUTOREFRESH = True
PLANNING_AT_ONCE = True  # no worker runs beside the tests
WHITENOISE_USE_FINDERS = True
ALLOWED_HOSTS = ["127.0.0.1", "localhost", "testserver"]

# Signed heads outside the database are of this process's own: kitchens of another test database have the same numbers.
_KEPT = tempfile.TemporaryDirectory(prefix="ember-test-")
ANCHOR_KEY, ANCHOR_KEYS = f"{_KEPT.name}/anchor-key.pem", f"{_KEPT.name}/anchor-keys.txt"
FILES, PHOTOS = f"{_KEPT.name}/files", f"{_KEPT.name}/files/faces"
ANCHOR_FILE, BACKUPS = f"{_KEPT.name}/anchors.jsonl", f"{_KEPT.name}/backups"
