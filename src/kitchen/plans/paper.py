"""Sheets as PDF and drawings as SVG, with our own styles and font and nothing fetched from elsewhere."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from pathlib import Path
from typing import Any

from django.contrib.staticfiles import finders

FONT = "vendor/atkinson-hyperlegible-next.woff2"
FONT_URL = "own:font"
PICTURE_URL = "own:picture/"
FONT_FACE = f'@font-face {{ font-family: "Atkinson Hyperlegible Next"; src: url("{FONT_URL}"); }}'


def static_file(name: str) -> Path:
    """Path of a static file. Raises FileNotFoundError."""
    path = finders.find(name)
    if path is None:
        raise FileNotFoundError(name)
    return Path(str(path))


def pdf(pages: Iterable[str], style: str, picture: Callable[[str], bytes] | None = None) -> bytes:
    """Parts of HTML in order as one PDF with the named stylesheet. `picture`: the JPEG of an image by what follows
    PICTURE_URL in its address. Raises ValueError without a part.
    """
    # While the compiler loads, it hides what this library needs: so after it, and only when a sheet is asked for.
    import ember.heat.compiled  # noqa: F401, I001
    from weasyprint import CSS, HTML
    from weasyprint.text.fonts import FontConfiguration
    from weasyprint.urls import URLFetcher, URLFetcherResponse

    class OwnFont(URLFetcher):  # type: ignore[misc]  # it has no types
        def fetch(self, url: str, headers: object = None) -> URLFetcherResponse:
            if picture is not None and url.startswith(PICTURE_URL):
                jpeg = picture(url.removeprefix(PICTURE_URL))
                return URLFetcherResponse(url, jpeg, {"Content-Type": "image/jpeg"})
            if url != FONT_URL:
                raise ValueError(f"not fetched: {url}")
            return URLFetcherResponse(url, static_file(FONT).read_bytes(), {"Content-Type": "font/woff2"})

    fonts, fetcher = FontConfiguration(), OwnFont()
    sheet = CSS(string=FONT_FACE + static_file(style).read_text("utf-8"), font_config=fonts, url_fetcher=fetcher)
    first: Any = None
    leaves: list[Any] = []
    for page in pages:
        goes_on = CSS(string=f"@page :first {{ counter-reset: page {len(leaves) + 1} }}")
        part = HTML(string=page, url_fetcher=fetcher).render(stylesheets=[sheet, goes_on], font_config=fonts)
        first = first or part
        leaves += part.pages
    if first is None:
        raise ValueError("a paper has at least one part")
    return bytes(first.copy(leaves).write_pdf())
