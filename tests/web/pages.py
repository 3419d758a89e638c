"""What the tests read of an answer."""

from __future__ import annotations

import re

from ..seen import without_tokens

BLOCK = (
    "address|article|aside|body|caption|dd|details|dialog|div|dl|dt|fieldset|figure|footer|form|h[1-6]|head|header|html"
    "|li|main|nav|ol|optgroup|option|p|section|summary|table|tbody|td|tfoot|th|thead|title|tr|ul|svg|g|path|text|rect"
)
AFTER = re.compile(rf"(</?(?:{BLOCK})\b[^>]*>) ")
BEFORE = re.compile(rf" (</?(?:{BLOCK})\b)")


def body_of(response):
    """The text of an answer; of a page with the white space that a browser would show, and without random tokens."""
    text = response.content.decode()
    if not response.headers.get("Content-Type", "").startswith("text/html"):
        return text
    return without_tokens(BEFORE.sub(r"\1", AFTER.sub(r"\1", re.sub(r"\s+", " ", text))))
