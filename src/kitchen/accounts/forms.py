"""Forms about people."""

from __future__ import annotations

from itertools import pairwise
from typing import Any
from zoneinfo import available_timezones

from django import forms
from django.contrib.auth.forms import AuthenticationForm
from django.contrib.auth.password_validation import validate_password

from kitchen.units.dates import DEFAULT, LANGUAGES
from kitchen.web import clean_text

from .confirming import is_pin
from .models import Kitchen, Membership, Person

TIME_ZONES = [(name, name.replace("_", " ")) for name in sorted(available_timezones()) if "/" in name or name == "UTC"]


PIN_ATTRIBUTES = {"inputmode": "numeric", "autocomplete": "off", "maxlength": "6", "pattern": "[0-9]{6}"}
NAME_TAKEN = "Somebody has this sign-in name already."


class SignInForm(AuthenticationForm):
    """The sign-in form, with the kitchen's own wording."""

    error_messages = {
        "invalid_login": "Wrong name or password.",
        "inactive": "This account can no longer sign in.",
    }

    def __init__(self, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.fields["username"].label = "Name"
        self.fields["username"].widget.attrs.update({"autocomplete": "username", "autocapitalize": "none"})
        self.fields["password"].widget.attrs.update({"autocomplete": "current-password"})


class OwnSettingsForm(forms.ModelForm):  # type: ignore[type-arg]
    """A person's own units, theme and sounds."""

    class Meta:
        model = Person
        fields = ["temperature_unit", "length_unit", "mass_unit", "theme", "is_muted"]
        labels = {
            "temperature_unit": "Temperature",
            "length_unit": "Length",
            "mass_unit": "Mass",
            "theme": "Light",
            "is_muted": "No sound on the line",
        }


class PinForm(forms.Form):
    """A new PIN, twice, with the password."""

    pin = forms.CharField(label="New PIN", widget=forms.PasswordInput(attrs=PIN_ATTRIBUTES))
    pin_again = forms.CharField(label="New PIN again", widget=forms.PasswordInput(attrs=PIN_ATTRIBUTES))
    own_password = forms.CharField(
        label="Your password", strip=False,
        widget=forms.PasswordInput(attrs={"autocomplete": "current-password"}),
    )  # fmt: skip

    def __init__(self, person: Person, *args: Any, **kwargs: Any) -> None:
        super().__init__(*args, **kwargs)
        self.person = person

    def clean_pin(self) -> str:
        """Six digits that are not the first ones somebody would try."""
        pin: str = self.cleaned_data["pin"]
        if not is_pin(pin):
            raise forms.ValidationError("Enter six digits.")
        steps = {int(b) - int(a) for a, b in pairwise(pin)}
        if steps in ({0}, {1}, {-1}) or pin[:3] == pin[3:] or pin[:2] == pin[2:4] == pin[4:]:
            raise forms.ValidationError("Too easy to guess: choose digits that do not run or repeat.")
        return pin

    def clean_own_password(self) -> str:
        """The password, if it is this person's."""
        password: str = self.cleaned_data["own_password"]
        if not self.person.check_password(password):
            raise forms.ValidationError("Wrong password.")
        return password

    def clean(self) -> dict[str, Any]:
        """The PIN typed twice the same."""
        data = super().clean() or {}
        if "pin" in data and data.get("pin_again") != data["pin"]:
            self.add_error("pin_again", "The two do not match.")
        return data


class KitchenForm(forms.ModelForm):  # type: ignore[type-arg]
    """A kitchen's name, time zone and the language of its dates."""

    time_zone = forms.ChoiceField(choices=TIME_ZONES, label="Time zone")
    date_language = forms.ChoiceField(choices=LANGUAGES, label="Days are written in", required=False)

    class Meta:
        model = Kitchen
        fields = ["name", "place", "time_zone", "date_language"]
        labels = {"place": "Place, if it has several"}
        error_messages = {"name": {"required": "Enter the kitchen's name."}}

    def clean_name(self) -> str:
        """The name without control characters."""
        return clean_text(self.cleaned_data["name"], 80)

    def clean_date_language(self) -> str:
        """The language; British English if none was chosen."""
        return self.cleaned_data["date_language"] or DEFAULT

    def clean_place(self) -> str:
        """The place without control characters."""
        return clean_text(self.cleaned_data["place"], 80)


class RoleForm(forms.Form):
    """A role in this kitchen."""

    role = forms.ChoiceField(choices=Membership.Role.choices)
    last_day = forms.DateField(
        label="Last day, for an inspector", required=False, widget=forms.DateInput(attrs={"type": "date"})
    )

    def clean(self) -> dict[str, Any]:
        """An inspector with a last day; nobody else with one."""
        data = super().clean() or {}
        is_inspector = data.get("role") == Membership.Role.INSPECTOR
        if is_inspector and not data.get("last_day") and "last_day" not in self.errors:
            self.add_error("last_day", "Enter the last day an inspector may look.")
        if not is_inspector:
            data["last_day"] = None
        return data


class AskForm(RoleForm):
    """Asks somebody who signs in already to work in this kitchen, too."""

    field_order = ("username", "role", "last_day")
    username = forms.CharField(
        label="Sign-in name", max_length=150, widget=forms.TextInput(attrs={"autocomplete": "off"})
    )

    def clean_username(self) -> str:
        """The name without control characters."""
        return clean_text(self.cleaned_data["username"], 150)


class NewPersonForm(RoleForm, forms.ModelForm):  # type: ignore[type-arg]
    """Adds a person to this kitchen; without a first password they get a link to choose one."""

    password = forms.CharField(
        widget=forms.PasswordInput(attrs={"autocomplete": "new-password"}),
        label="First password (or leave empty for a link)", strip=False, required=False,
    )  # fmt: skip

    class Meta:
        model = Person
        fields = ["name", "username"]
        labels = {"username": "Sign-in name"}
        help_texts = {"username": ""}
        error_messages = {"username": {"unique": NAME_TAKEN}}

    def clean_password(self) -> str:
        """The password, if it is long enough and not a common one; it may be empty."""
        password: str = self.cleaned_data["password"]
        if password:
            validate_password(password)
        return password
