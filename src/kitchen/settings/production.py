"""Behind a proxy that ends TLS. EMBER_HOSTS names the hosts, separated by commas."""

import os

from .base import *  # noqa: F403

ALLOWED_HOSTS = [host for host in os.environ.get("EMBER_HOSTS", "").split(",") if host]
CSRF_TRUSTED_ORIGINS = [f"https://{host}" for host in ALLOWED_HOSTS]
SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https")
SECURE_SSL_REDIRECT = True
SECURE_HSTS_SECONDS = 31_536_000
SECURE_HSTS_INCLUDE_SUBDOMAINS = True
SECURE_HSTS_PRELOAD = True
SESSION_COOKIE_SECURE = True
CSRF_COOKIE_SECURE = True
