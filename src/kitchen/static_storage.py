"""Static files under names that change with what is in them."""

from __future__ import annotations

from whitenoise.storage import CompressedManifestStaticFilesStorage


class StaticStorage(CompressedManifestStaticFilesStorage):
    """Scripts import each other by these names too, so that a browser never mixes two versions."""

    support_js_module_import_aggregation = True
