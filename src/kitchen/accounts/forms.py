"""Forms about people."""

from __future__ import annotations

from typing import Any

from django import forms
from django.contrib.auth.forms import AuthenticationForm
from django.contrib.auth.password_validation import validate_password

from .models import Membership, Person


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


class NewPersonForm(forms.ModelForm):  # type: ignore[type-arg]
    """Adds a person to this kitchen."""

    role = forms.ChoiceField(choices=Membership.Role.choices)
    password = forms.CharField(
        widget=forms.PasswordInput(attrs={"autocomplete": "new-password"}), label="First password", strip=False
    )

    class Meta:
        model = Person
        fields = ["name", "username"]
        labels = {"username": "Sign-in name"}
        help_texts = {"username": ""}

    def clean_password(self) -> str:
        """The password, if it is long enough and not a common one."""
        password: str = self.cleaned_data["password"]
        validate_password(password)
        return password
