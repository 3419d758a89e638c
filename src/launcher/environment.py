"""The environment the application runs in; secrets are made once and kept out of the code."""

from __future__ import annotations

import os
import secrets
import subprocess
import sys
from collections.abc import Mapping

from .cluster import Cluster
from .paths import LOCAL, ROOT
from .roles import APP


def secret_key() -> str:
    """The signing key: from the environment, else made once for this checkout."""
    if key := os.environ.get("EMBER_SECRET_KEY"):
        return key
    path = LOCAL / "secret-key"
    if not path.exists():
        path.touch(mode=0o600)
        path.write_text(secrets.token_urlsafe(48))
    return path.read_text().strip()


def application_environment(cluster: Cluster, role: str = APP) -> dict[str, str]:
    """A full environment for Django processes, which reach the database as one of its roles."""
    return {
        **os.environ,
        **cluster.environment(role),
        "EMBER_DB_PATIENT": "0" if role == APP else "1",
        "DJANGO_SETTINGS_MODULE": os.environ.get("DJANGO_SETTINGS_MODULE", "kitchen.settings.local"),
        "EMBER_SECRET_KEY": secret_key(),
        "EMBER_ROOT": str(ROOT),
        "EMBER_LOCAL": str(LOCAL),
    }


def run_django(env: Mapping[str, str], *arguments: str) -> subprocess.CompletedProcess[str]:
    """One of Django's commands in an environment; what it prints is returned."""
    command = [sys.executable, "-m", "django", *arguments]
    return subprocess.run(command, env=env, cwd=ROOT, capture_output=True, text=True, check=False)
