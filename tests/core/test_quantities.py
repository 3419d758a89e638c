"""Reading and showing measures."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ember.errors import BadInput
from ember.quantities import Units, parse_length, parse_mass, parse_minutes, parse_temperature, show_duration
from kitchen.units.number_text import clock_span, figure, fixed, in_units, minutes_text


@pytest.mark.parametrize(
    ("text", "unit", "celsius"),
    [("54.5", "C", 54.5), ("54,5 °C", "C", 54.5), ("130 F", "C", 54.44), ("130", "F", 54.44), ("\u22121", "C", -1.0)],
)
def test_temperatures(text, unit, celsius):
    assert parse_temperature(text, unit) == pytest.approx(celsius, abs=0.01)


@pytest.mark.parametrize(("text", "mm"), [("38", 38), ("3.8 cm", 38), ("1½ in", 38.1), ('1.5"', 38.1), ("½ in", 12.7)])
def test_lengths(text, mm):
    assert parse_length(text) == pytest.approx(mm)


@pytest.mark.parametrize(("text", "g"), [("340", 340), ("1.2 kg", 1200), ("2 lb 4 oz", 1020.58), ("12oz", 340.19)])
def test_masses(text, g):
    assert parse_mass(text) == pytest.approx(g, abs=0.01)


@pytest.mark.parametrize(
    ("text", "minutes"),
    [("20", 20), ("1 h 50 min", 110), ("1:50", 110), ("45 s", 0.75), ("2 d 3 h", 3060), ("1h30", 90)],
)
def test_times(text, minutes):
    assert parse_minutes(text) == pytest.approx(minutes)


@pytest.mark.parametrize("text", ["abc", "", " ", "12 parsec", "--3", "1e9999", "5 5 °C", "°", "1;2", "12 mm mm"])
def test_nonsense_is_refused_in_words(text):
    with pytest.raises(BadInput):
        parse_temperature(text)


@given(st.text(max_size=30))
def test_any_text_gives_a_number_or_a_clear_refusal(text):
    for parse in (parse_temperature, parse_length, parse_mass, parse_minutes):
        try:
            assert isinstance(parse(text), float)
        except BadInput:
            continue


@given(st.floats(1 / 60, 20160))
def test_shown_minutes_read_back_to_the_same(minutes):
    assert parse_minutes(minutes_text(minutes)) == pytest.approx(minutes, abs=0.006)


def test_durations_as_cooks_say_them():
    assert [show_duration(s) for s in (0, 45, 59.6, 200, 600, 6600, 90000)] == [
        "0 s", "45 s", "1 min", "3 min 20 s", "10 min", "1 h 50 min", "1 d 1 h",
    ]  # fmt: skip


def test_numbers_as_screens_show_them():
    assert figure(54.0, 1) == "54"
    assert figure(-0.04, 1) == "0"
    assert fixed(-0.04, 1) == "0.0"
    assert fixed(-1.25, 1) == "\u22121.2"
    assert [clock_span(s) for s in (0, 38, -65, -0.4, 3720)] == ["0:00", "0:38", "\u22121:05", "0:00", "1:02:00"]


def test_messages_of_the_core_speak_the_persons_unit():
    assert in_units("from 5 °C to 57 °C, -1 °C", Units("F")) == "from 41 °F to 134.6 °F, 30.2 °F"
    assert in_units("at 57 °C", Units()) == "at 57 °C"


def test_units_of_a_person():
    units = Units("F", "in", "lb")
    assert units.temperature_value(100) == 212
    assert units.temperature_step(10) == 18
    assert units.length_value(25.4) == pytest.approx(1)
    assert units.mass_value(453.59237) == pytest.approx(1)
