"""Files a browser takes away."""

from __future__ import annotations

from django.utils.text import slugify


def attachment(name: str, ending: str) -> str:
    """A Content-Disposition header with a file name that every file system takes."""
    return f'attachment; filename="{slugify(name)[:60] or "plan"}{ending}"'
