"""Form widgets rendered directly: the bench has eighty and is rendered at every key."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from django.forms.renderers import DjangoTemplates
from django.utils.html import conditional_escape
from django.utils.safestring import SafeString, mark_safe

INPUTS = {f"django/forms/widgets/{kind}.html" for kind in ("text", "number", "hidden", "checkbox", "input")}
SELECT = "django/forms/widgets/select.html"


def _attrs(attrs: Mapping[str, Any]) -> str:
    return "".join(
        f" {name}" if value is True else f' {name}="{conditional_escape(str(value))}"'
        for name, value in attrs.items()
        if value is not False
    )


def _input(widget: Mapping[str, Any]) -> str:
    value = "" if widget["value"] is None else f' value="{conditional_escape(str(widget["value"]))}"'
    kind, name = conditional_escape(widget["type"]), conditional_escape(widget["name"])
    return f'<input type="{kind}" name="{name}"{value}{_attrs(widget["attrs"])}>'


def _option(option: Mapping[str, Any]) -> str:
    value, words = conditional_escape(str(option["value"])), conditional_escape(str(option["label"]))
    return f'<option value="{value}"{_attrs(option["attrs"])}>{words}</option>'


def _select(widget: Mapping[str, Any]) -> str:
    inner = []
    for group, options, _ in widget["optgroups"]:
        written = "".join(_option(option) for option in options)
        inner.append(f'<optgroup label="{conditional_escape(group)}">{written}</optgroup>' if group else written)
    return f'<select name="{conditional_escape(widget["name"])}"{_attrs(widget["attrs"])}>{"".join(inner)}</select>'


class StraightRenderer(DjangoTemplates):
    """Django's own form templates, with plain inputs and selects rendered the same way ten times as fast."""

    def render(self, template_name: str, context: dict[str, Any], request: Any = None) -> SafeString:
        """Render a template to HTML."""
        widget = context.get("widget") or {}
        if template_name in INPUTS:
            return mark_safe(_input(widget))  # noqa: S308  (escaped piece by piece above)
        if template_name == SELECT:
            return mark_safe(_select(widget))  # noqa: S308
        return mark_safe(super().render(template_name, context, request))  # noqa: S308  (Django's own template)
