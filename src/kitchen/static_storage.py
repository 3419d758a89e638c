"""Static files under names that contain a hash of their content."""

from __future__ import annotations

from whitenoise.storage import CompressedManifestStaticFilesStorage

IMPORTS = CompressedManifestStaticFilesStorage._js_module_import_aggregation_patterns[1]


class StaticStorage(CompressedManifestStaticFilesStorage):  # type: ignore[misc]  # of an untyped package
    """Hashes imports between our own scripts too, so that a browser never mixes two versions."""

    patterns = (*CompressedManifestStaticFilesStorage.patterns, ("js/*.js", IMPORTS))
