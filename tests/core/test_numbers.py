"""Numbers as people write them: what is clear is read, what could be two numbers is asked about."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ember.errors import BadInput
from ember.quantities import parse_height, parse_length, parse_mass, parse_minutes, parse_temperature, parse_volume


@pytest.mark.parametrize(
    ("text", "grams"),
    [
        ("5 500", 5500), ("5\u00a0500", 5500), ("5\u202f500 g", 5500), ("5'500", 5500), ("5500", 5500),
        ("5,500.0", 5500), ("5.500,0", 5500), ("1,234,567", 1_234_567), ("5.500 kg", 5500), ("5,5 kg", 5500),
        ("3 lb 4 oz", 1474.2), ("3lb4oz", 1474.2), ("1 1/2 lb", 680.4), ("1½ lb", 680.4), ("½ lb", 226.8),
        ("1 ⅝ kg", 1625), ("2 pounds", 907.2), ("12 ounces", 340.2), ("1/4 kg", 250), ("0,250 kg", 250),
        ("0.125", 0.125), ("54,5", 54.5),
    ],
)  # fmt: skip
def test_masses(text, grams):
    assert parse_mass(text) == pytest.approx(grams, abs=0.05)


@pytest.mark.parametrize("text", ["5,500", "5.500", "12,345", "5,500 g", "3,250 kg"])
def test_what_could_be_two_numbers_is_asked_about(text):
    """A 5.5 g turkey."""
    with pytest.raises(BadInput, match="could be"):
        parse_mass(text)


@pytest.mark.parametrize(
    "text", ["2 4", "3 lb 4", "1 2 3", "4 lb 5 6", "5 oz 3", "1.2.3,4", "1/0 lb", "--5", "5..5", "lb", ""]
)
def test_what_is_no_measure_is_refused(text):
    with pytest.raises(BadInput):
        parse_mass(text)


@pytest.mark.parametrize(
    ("text", "mm"),
    [
        ("1 1/2 in", 38.1), ("1½", 1.5), ("1½ in", 38.1), ("3'", 914.4), ("3′ 2″", 965.2), ('1.125"', 28.575),
        ("3 ft", 914.4), ("1-1/2 in", 38.1), ("3.8 cm", 38.0), ("2 inches", 50.8),
    ],
)  # fmt: skip
def test_lengths(text, mm):
    assert parse_length(text) == pytest.approx(mm, abs=0.01)


def test_in_inches_three_decimals_are_decimals():
    assert parse_length("1.125", "in") == pytest.approx(28.575)
    with pytest.raises(BadInput, match="could be"):
        parse_length("1,125", "in")


def test_other_measures():
    assert parse_height("1 600 ft") == pytest.approx(487.7, abs=0.1)
    assert parse_height("5280", "ft") == pytest.approx(1609.3, abs=0.1)
    assert parse_volume("8 fl oz") == pytest.approx(236.6, abs=0.1)
    assert parse_volume("2", "qt") == pytest.approx(1892.7, abs=0.1)
    assert parse_minutes("1 h 50") == 110
    assert parse_minutes("1½ h") == 90
    assert parse_temperature("54,5 °C") == 54.5
    assert parse_temperature("\u22121.5") == -1.5


@given(st.integers(1, 999_999))
def test_groups_of_three_by_spaces_are_always_thousands(number):
    assert parse_mass(f"{number:,}".replace(",", " ")) == number


@given(st.floats(0.1, 9999.0).map(lambda value: round(value, 2)))
def test_a_comma_and_a_point_are_the_same_decimal(value):
    assert parse_mass(f"{value:.2f}") == parse_mass(f"{value:.2f}".replace(".", ","))
