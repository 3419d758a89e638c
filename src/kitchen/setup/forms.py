"""The form that begins a kitchen."""

from __future__ import annotations

import re
from typing import Any

from django import forms
from django.contrib.auth.password_validation import validate_password
from django.utils.text import slugify

from ember.errors import BadInput
from ember.judge.standards import standards
from ember.kit.thermometers import ALTITUDE_M
from ember.quantities import parse_height
from kitchen.accounts.forms import NAME_TAKEN, TIME_ZONES
from kitchen.accounts.models import LENGTH_UNITS, MASS_UNITS, TEMPERATURE_UNITS, Person
from kitchen.kit.quick_add import UnknownEquipment, read_equipment
from kitchen.units.dates import DEFAULT, LANGUAGES
from kitchen.web import clean_text

from .actions import NewKitchen

USUAL_KIT = "2 ovens, 1 bath, 4 rings, 2 pans, a fridge"
MOST_PEOPLE = 60


class SetupForm(forms.Form):
    """A kitchen, its first chef, and what may be added later as well."""

    name = forms.CharField(max_length=80, label="Kitchen's name", error_messages={"required": "Enter a name."})
    place = forms.CharField(max_length=80, required=False, label="Place, if it has several kitchens")
    time_zone = forms.ChoiceField(
        choices=TIME_ZONES, label="Time zone", initial="UTC", widget=forms.Select(attrs={"data-own-zone": ""})
    )
    date_language = forms.ChoiceField(choices=LANGUAGES, label="Days are written in", initial=DEFAULT, required=False)
    standard = forms.ChoiceField(
        choices=(), label="Food safety standard", error_messages={"required": "Choose the standard you work by."}
    )
    altitude = forms.CharField(max_length=20, initial="0 m", label="Height above sea level, m or ft", required=False)
    chef = forms.CharField(max_length=60, label="Your name", error_messages={"required": "Enter your name."})
    username = forms.CharField(
        max_length=150, label="Sign-in name", error_messages={"required": "Enter a sign-in name."}
    )
    password = forms.CharField(
        widget=forms.PasswordInput(attrs={"autocomplete": "new-password"}), label="Password", strip=False,
        error_messages={"required": "Enter a password."},
    )  # fmt: skip
    temperature_unit = forms.ChoiceField(choices=TEMPERATURE_UNITS, label="Temperature")
    length_unit = forms.ChoiceField(choices=LENGTH_UNITS, label="Length")
    mass_unit = forms.ChoiceField(choices=MASS_UNITS, label="Weight")
    equipment = forms.CharField(
        required=False, initial=USUAL_KIT, max_length=600, label="Equipment", widget=forms.Textarea(attrs={"rows": 2})
    )
    people = forms.CharField(
        required=False, max_length=4000, label="People, one name a line", widget=forms.Textarea(attrs={"rows": 4})
    )
    example_plans = forms.BooleanField(required=False, label="Begin with example plans", initial=True)

    KITCHEN = ("name", "place", "time_zone", "date_language", "standard", "altitude")
    CHEF = ("chef", "username", "password", "temperature_unit", "length_unit", "mass_unit")
    LATER = ("equipment", "people", "example_plans")

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        rules: Any = self.fields["standard"]
        rules.choices = [("", "Choose …")] + [(key, f"{rule.name} {rule.edition}") for key, rule in standards().items()]

    def parts(self) -> list[tuple[str, list[forms.BoundField]]]:
        """The fields under their headings."""
        headings = (("The kitchen", self.KITCHEN), ("You, its first chef", self.CHEF), ("Can also wait", self.LATER))
        return [(words, [self[name] for name in names]) for words, names in headings]

    def clean_name(self) -> str:
        """The name without control characters."""
        name = clean_text(self.cleaned_data["name"], 80)
        if not name:
            raise forms.ValidationError("Enter a name.")
        return name

    def clean_altitude(self) -> float:
        """Metres above the sea."""
        text = self.cleaned_data["altitude"]
        try:
            metres = parse_height(text) if text else 0.0
        except BadInput as error:
            raise forms.ValidationError(error.message) from None
        if not ALTITUDE_M[0] <= metres <= ALTITUDE_M[1]:
            raise forms.ValidationError(f"Enter a height from {ALTITUDE_M[0]:.0f} to {ALTITUDE_M[1]:.0f} m.")
        return metres

    def clean_username(self) -> str:
        """A sign-in name that nobody has and that can be typed."""
        username = str(self.cleaned_data["username"])
        for check in Person._meta.get_field("username").validators:
            check(username)
        if Person.objects.filter(username=username).exists():
            raise forms.ValidationError(NAME_TAKEN)
        return username

    def clean_equipment(self) -> list[dict[str, Any]]:
        """The equipment that the text names."""
        try:
            return read_equipment(self.cleaned_data["equipment"])
        except UnknownEquipment as error:
            raise forms.ValidationError(str(error)) from None

    def clean_people(self) -> list[tuple[str, str]]:
        """Each person's sign-in name and name."""
        names = [clean_text(line, 60) for line in re.split(r"[\n,;]", self.cleaned_data["people"])]
        names = [name for name in names if name]
        if len(names) > MOST_PEOPLE:
            raise forms.ValidationError(f"At most {MOST_PEOPLE} here; add the others later.")
        taken = {str(self.data.get("username", ""))} | set(Person.objects.values_list("username", flat=True))
        people = []
        for name in names:
            first = slugify(name.split()[0]) or "cook"
            username = next(each for each in (first, *(f"{first}{n}" for n in range(2, 999))) if each not in taken)
            taken.add(username)
            people.append((username, name))
        return people

    def clean(self) -> dict[str, Any]:
        """Check the password against the names typed."""
        typed = super().clean() or {}
        if typed.get("password"):
            try:
                validate_password(
                    typed["password"], Person(username=typed.get("username", ""), name=typed.get("chef", ""))
                )
            except forms.ValidationError as error:
                self.add_error("password", error)
        return typed

    def wanted(self) -> NewKitchen:
        """What was asked for, after validation."""
        typed = self.cleaned_data
        kitchen = {key: typed[key] for key in ("name", "place", "time_zone", "standard")}
        kitchen["date_language"] = typed["date_language"] or DEFAULT
        units = {key: typed[key] for key in ("temperature_unit", "length_unit", "mass_unit")}
        return NewKitchen(
            kitchen=kitchen | {"altitude_m": typed["altitude"] or 0.0},
            username=typed["username"], chef=clean_text(typed["chef"], 60), units=units, password=typed["password"],
            equipment=typed["equipment"], people=typed["people"],
            has_example_plans=typed["example_plans"],
        )  # fmt: skip
