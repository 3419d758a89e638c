"""Every write to own cuts."""

from __future__ import annotations

from typing import Any

from django.db import IntegrityError, transaction

from kitchen.accounts.models import Kitchen

from .models import OwnCut


class NameTakenError(Exception):
    """Another own cut of this kitchen has the name."""


def keep(kitchen: Kitchen, own: OwnCut | None, data: dict[str, Any]) -> OwnCut:
    """Create or change an own cut. Raises NameTakenError."""
    own = own or OwnCut(kitchen=kitchen)
    for key in ("name", "base", "doneness", "composition"):
        setattr(own, key, data[key])
    try:
        with transaction.atomic():
            own.save()
    except IntegrityError:
        raise NameTakenError(f"You already have a cut called “{own.name}”.") from None
    return own


def remove(own: OwnCut) -> None:
    """Remove an own cut; `restore` brings it back."""
    own.removed_at = own.kitchen.now()
    own.save(update_fields=["removed_at"])


def restore(own: OwnCut) -> None:
    """Restore an own cut. Raises NameTakenError if another has its name now."""
    own.removed_at = None
    try:
        with transaction.atomic():
            own.save(update_fields=["removed_at"])
    except IntegrityError:
        raise NameTakenError(f"You already have a cut called “{own.name}”.") from None
