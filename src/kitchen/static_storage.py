"""Static files under names that contain a hash of their content."""

from __future__ import annotations

from whitenoise.storage import CompressedManifestStaticFilesStorage


class StaticStorage(CompressedManifestStaticFilesStorage):  # type: ignore[misc]  # of an untyped package
    """Hashes imports between scripts too, so that a browser never mixes two versions."""

    support_js_module_import_aggregation = True
