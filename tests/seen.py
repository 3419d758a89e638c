"""What a person sees of a page: its text, the words of its fields and pictures; no tokens, ids and addresses."""

from __future__ import annotations

import re
from html.parser import HTMLParser

SHOWN = {"value", "placeholder", "aria-label", "title", "alt"}
HIDDEN = {"script", "style", "template"}


class _Reader(HTMLParser):
    """Collects words as they are shown."""

    def __init__(self) -> None:
        super().__init__()
        self.words: list[str] = []
        self._inside = 0

    def handle_starttag(self, tag, attrs):
        attributes = dict(attrs)
        self._inside += tag in HIDDEN
        if attributes.get("type") != "hidden" and tag != "option":
            self.words += [value for key, value in attrs if key in SHOWN and value]

    def handle_endtag(self, tag):
        self._inside -= tag in HIDDEN

    def handle_data(self, data):
        if not self._inside:
            self.words.append(data)


def seen(body: str) -> str:
    """The words of a page, in order, in one line.

    >>> seen('<p title="Core">64 °C</p><input type="hidden" value="nan1"><script>x = NaN</script>')
    'Core 64 °C'
    """
    reader = _Reader()
    reader.feed(body)
    return re.sub(r"\s+", " ", " ".join(reader.words)).strip()


def has_word(body: str, word: str) -> bool:
    """Whether a person reads a word, whatever its case."""
    return re.search(rf"\b{re.escape(word)}\b", seen(body), re.IGNORECASE) is not None


TOKENS = re.compile(r"(csrfmiddlewaretoken\"? value=\"|X-CSRFToken[^\w]+|token\" value=\"|nonce=\")[\w-]+")


def without_tokens(body: str) -> str:
    """A page without its random tokens, which spell anything sooner or later.

    >>> without_tokens('<input name="csrfmiddlewaretoken" value="nanSAFE"><p>64</p>')
    '<input name="csrfmiddlewaretoken" value=""><p>64</p>'
    """
    return TOKENS.sub(r"\1", body)
