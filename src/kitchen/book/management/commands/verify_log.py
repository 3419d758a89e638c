"""`./ember manage verify_log`: walk the chain of every kitchen."""

from __future__ import annotations

import sys
from typing import Any

from django.core.management.base import BaseCommand

from kitchen.accounts.models import Kitchen
from kitchen.book.verify import verify


class Command(BaseCommand):
    """Reports how many records of each kitchen hold, or the first that does not; exits with 1 in that case."""

    help = "Walks the chain of every kitchen's records."

    def handle(self, *args: Any, **options: Any) -> None:
        """Walk the chain of every kitchen."""
        broken = False
        for kitchen in Kitchen.objects.order_by("pk"):
            walked = verify(kitchen)
            if walked.holds:
                self.stdout.write(f"{kitchen}: {walked.records} records hold. The last digest is {walked.digest}.")
            else:
                broken = True
                first = f"at record {walked.broken_at}: {walked.why}" if walked.broken_at else "; ".join(walked.faults)
                self.stdout.write(f"{kitchen}: BROKEN {first}.")
        if broken:
            sys.exit(1)
