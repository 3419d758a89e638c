"""How the person of a session is looked up."""

from __future__ import annotations

from django.contrib.auth.backends import ModelBackend

from .models import Membership, Person


class MemberBackend(ModelBackend):
    """Loads a person together with their memberships: every request needs both, and one query is enough."""

    def get_user(self, user_id: int) -> Person | None:
        """The active person with this id, with their memberships; None if there is none."""
        memberships = Membership.objects.filter(person_id=user_id).select_related("person", "kitchen").order_by("id")
        known = list(memberships)
        if not known:
            person = super().get_user(user_id)
            return person if isinstance(person, Person) else None
        person = known[0].person
        if not self.user_can_authenticate(person):
            return None
        fetched = person.memberships.all()
        fetched._result_cache = known
        person._prefetched_objects_cache = {"memberships": fetched}  # type: ignore[attr-defined]
        return person
