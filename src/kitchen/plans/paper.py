"""Sheets as PDF and drawings as SVG: our own styles and our own font, nothing fetched from elsewhere."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from django.contrib.staticfiles import finders
from weasyprint import CSS, HTML
from weasyprint.text.fonts import FontConfiguration
from weasyprint.urls import URLFetcher, URLFetcherResponse

FONT = "vendor/atkinson-hyperlegible-next.woff2"
FONT_URL = "own:font"
FONT_FACE = f'@font-face {{ font-family: "Atkinson Hyperlegible Next"; src: url("{FONT_URL}"); }}'


def static_file(name: str) -> Path:
    """Where a static file lies. Raises FileNotFoundError."""
    path = finders.find(name)
    if path is None:
        raise FileNotFoundError(name)
    return Path(str(path))


class OwnFont(URLFetcher):  # type: ignore[misc]  # weasyprint has no types
    """All that a sheet may ask for."""

    def fetch(self, url: str, headers: Any = None) -> URLFetcherResponse:
        """The font's bytes. Raises ValueError for any other address."""
        if url != FONT_URL:
            raise ValueError(f"not fetched: {url}")
        return URLFetcherResponse(url, static_file(FONT).read_bytes(), {"Content-Type": "font/woff2"})


def pdf(page: str, style: str) -> bytes:
    """A page of HTML as PDF, by the named stylesheet."""
    fonts, fetcher = FontConfiguration(), OwnFont()
    sheet = CSS(string=FONT_FACE + static_file(style).read_text("utf-8"), font_config=fonts, url_fetcher=fetcher)
    return bytes(HTML(string=page, url_fetcher=fetcher).write_pdf(stylesheets=[sheet], font_config=fonts))
