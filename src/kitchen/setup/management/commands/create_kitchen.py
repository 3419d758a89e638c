"""`./ember manage create_kitchen`: a kitchen and its first chef, without a browser."""

from __future__ import annotations

from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.urls import reverse

from kitchen.accounts.models import LINK_VALID_FOR
from kitchen.setup.actions import create_kitchen, password_link_for
from kitchen.setup.forms import SetupForm

OPTIONAL = ("place", "time_zone", "standard", "altitude", "temperature_unit", "length_unit", "mass_unit", "equipment",
            "people")  # fmt: skip


class Command(BaseCommand):
    """Creates the kitchen, and prints the link by which the chef chooses a password."""

    help = "Create a kitchen with its first chef, and print the link by which the chef chooses a password."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("name", help="the kitchen's name")
        parser.add_argument("--chef", required=True, help="the first chef's name")
        parser.add_argument("--username", required=True, help="the first chef's sign-in name")
        for name in OPTIONAL:
            parser.add_argument("--" + name.replace("_", "-"), default=SetupForm.base_fields[name].initial)
        parser.add_argument("--example-plans", action="store_true")
        parser.add_argument("--base", default="http://127.0.0.1:8000", help="where the application is reached")

    def handle(self, *args: Any, **options: Any) -> None:
        """Check what was given by the form of the first run, create, print."""
        form = SetupForm()
        typed = {field.name: field.initial for field in form}
        typed |= {"standard": form.fields["standard"].choices[1][0]}  # type: ignore[attr-defined]
        typed |= {"temperature_unit": "C", "length_unit": "mm", "mass_unit": "g", "example_plans": False}
        typed |= {name: value for name, value in options.items() if name in typed and value is not None}
        form = SetupForm(typed)
        form.fields["password"].required = False  # it is chosen by the link
        if not form.is_valid():
            faults = [f"--{name.replace('_', '-')}: {' '.join(map(str, words))}" for name, words in form.errors.items()]
            raise CommandError("\n".join(faults))
        wanted = form.wanted()
        chef = create_kitchen(wanted)
        address = options["base"].rstrip("/") + reverse("accounts:choose-password", args=[password_link_for(chef)])
        self.stdout.write(f"{wanted.kitchen['name']} is there. {chef} chooses a password at\n  {address}")
        self.stdout.write(f"The link works once, within {LINK_VALID_FOR.days} days.")
