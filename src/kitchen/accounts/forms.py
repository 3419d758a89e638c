"""Forms about people."""

from __future__ import annotations

from typing import Any
from zoneinfo import available_timezones

from django import forms
from django.contrib.auth.forms import AuthenticationForm
from django.contrib.auth.password_validation import validate_password

from kitchen.web import clean_text

from .models import Kitchen, Membership, Person

TIME_ZONES = [(name, name.replace("_", " ")) for name in sorted(available_timezones()) if "/" in name or name == "UTC"]


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


class KitchenForm(forms.ModelForm):  # type: ignore[type-arg]
    """A kitchen's name and time zone."""

    time_zone = forms.ChoiceField(choices=TIME_ZONES, label="Time zone")

    class Meta:
        model = Kitchen
        fields = ["name", "place", "time_zone"]
        labels = {"place": "Place, if it has several"}
        error_messages = {"name": {"required": "Enter the kitchen's name."}}

    def clean_name(self) -> str:
        """The name without control characters."""
        return clean_text(self.cleaned_data["name"], 80)

    def clean_place(self) -> str:
        """The place without control characters."""
        return clean_text(self.cleaned_data["place"], 80)


class NewPersonForm(forms.ModelForm):  # type: ignore[type-arg]
    """Adds a person to this kitchen; without a first password they get a link to choose one."""

    role = forms.ChoiceField(choices=Membership.Role.choices)
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
