"""The token that makes a form's second send harmless."""

from __future__ import annotations

import uuid

from django import template
from django.utils.html import format_html
from django.utils.safestring import SafeString

from kitchen.accounts.once import FIELD

register = template.Library()


@register.simple_tag
def once() -> SafeString:
    """A hidden field with a new token, one for each rendering of a form."""
    return format_html('<input type="hidden" name="{}" value="{}">', FIELD, uuid.uuid4())
