"""Widgets that are written straight: what Django's own templates would have written."""

from __future__ import annotations

import re

import pytest
from django import forms
from django.forms.renderers import DjangoTemplates

from kitchen.plans.bench import Bench
from kitchen.units.renderer import StraightRenderer

from .posting import UNITS


def tight(html):
    return re.sub(r">\s+|\s+<", lambda m: m.group(0).strip(), str(html)).strip()


def test_every_widget_of_the_bench_is_as_django_writes_it(document):
    document["prep"] = [{"kind": "rub", "minutes": 3, "before": 1, "with": ["pepper"]}]
    seen = 0
    for form in Bench.of_document(document, UNITS).forms():
        for field in form:
            if type(field.field.widget).__name__ == "CutSelect":
                continue
            widget, name = field.field.widget, field.html_name
            theirs = widget.render(name, field.value(), field.build_widget_attrs({}, widget), DjangoTemplates())
            ours = widget.render(name, field.value(), field.build_widget_attrs({}, widget), StraightRenderer())
            assert tight(ours) == tight(theirs)
            seen += 1
    assert seen > 30


@pytest.mark.parametrize("value", ['"><script>', "a & b", None, 0, "½"])
def test_what_was_typed_is_escaped(value):
    for widget in (forms.TextInput(attrs={"title": value or ""}), forms.Select(choices=[(value, value), ("x", "<b>")])):
        ours = widget.render('n"', value, {}, StraightRenderer())
        assert tight(ours) == tight(widget.render('n"', value, {}, DjangoTemplates()))


def test_groups_of_options():
    widget = forms.Select(choices=[("Fish & co", [("cod", "Cod"), ("eel", "Eel")]), ("other", "Other")])
    assert tight(widget.render("f", "eel", {}, StraightRenderer())) == tight(
        widget.render("f", "eel", {}, DjangoTemplates())
    )
