"""Export of all a kitchen has: each table as JSON lines, its photographs, the chain with its script, and a list."""

from __future__ import annotations

import base64
import json
import zipfile
from collections.abc import Iterator
from pathlib import Path
from typing import IO, Any

from django.apps import apps
from django.core.serializers.json import DjangoJSONEncoder
from django.db import models
from django.db.backends.postgresql.psycopg_any import Range

from kitchen.accounts.models import Kitchen
from kitchen.faces.models import FacePhoto
from kitchen.faces.store import path_of
from kitchen.line.models import Reading

from .anchor import anchor, anchors_of
from .verify import links_of, verify

AT_A_TIME = 2000
SECRETS = {"password", "pin_hash", "secret_hash", "token_hash", "code_hash", "token"}
OURS = "kitchen."
OF_A_PERSON = ("practice",)  # what somebody practised is theirs, not the kitchen's


class _Encoder(DjangoJSONEncoder):
    """Encodes ranges as their two ends and files as base64."""

    def default(self, o: Any) -> Any:
        if isinstance(o, Range):
            return [o.lower, o.upper]
        if isinstance(o, bytes | memoryview):
            return base64.b64encode(bytes(o)).decode("ascii")
        return super().default(o)


def our_models() -> list[type[models.Model]]:
    """Every model of this application by its name."""
    models_here = [model for model in apps.get_models() if model.__module__.startswith(OURS)]
    found = [model for model in models_here if model._meta.app_label not in OF_A_PERSON]
    return sorted(found, key=lambda model: model._meta.label_lower)


def path_to_kitchen(model: type[models.Model]) -> str | None:
    """The lookup from a model to its kitchen, "kitchen" or "cook__kitchen"; None if it has none."""
    if model is Kitchen:
        return "pk"
    seen: set[type[models.Model]] = {model}
    waiting: list[tuple[type[models.Model], str]] = [(model, "")]
    while waiting:
        here, so_far = waiting.pop(0)
        for field in here._meta.get_fields():
            other = field.related_model
            if not isinstance(field, models.ForeignKey) or other in seen or not isinstance(other, type):
                continue
            path = f"{so_far}{field.name}"
            if other is Kitchen:
                return path
            if other.__module__.startswith(OURS):
                seen.add(other)
                waiting.append((other, f"{path}__"))
    return None


def rows_of(kitchen: Kitchen, model: type[models.Model]) -> Iterator[dict[str, Any]]:
    """A kitchen's rows of a model, without secrets; none for a model that belongs to no kitchen."""
    names = [field.attname for field in model._meta.concrete_fields if field.name not in SECRETS]
    if model._meta.label == "accounts.Person":
        rows = model._default_manager.filter(memberships__kitchen=kitchen)
    else:
        path = path_to_kitchen(model)
        if path is None:
            return
        rows = model._default_manager.filter(**{path: kitchen.pk})
    in_order = ("at", "id") if model is Reading else ("pk",)  # its months have no index by number alone
    yield from rows.order_by(*in_order).values(*names).iterator(AT_A_TIME)


def write_export(kitchen: Kitchen, into: IO[bytes]) -> dict[str, int]:
    """Write the archive; returns the number of rows of each table."""
    counts: dict[str, int] = {}
    anchor(kitchen)
    with zipfile.ZipFile(into, "w", zipfile.ZIP_DEFLATED, compresslevel=3) as archive:
        for model in our_models():
            name = model._meta.label_lower
            with archive.open(f"tables/{name}.jsonl", "w") as file:
                counts[name] = 0
                for record in rows_of(kitchen, model):
                    file.write((json.dumps(record, cls=_Encoder, ensure_ascii=False) + "\n").encode())
                    counts[name] += 1
        for photo in FacePhoto.objects.of(kitchen).filter(removal=None).iterator(200):
            if (path := path_of(photo)).is_file():
                archive.write(path, f"photographs/{path.name}", zipfile.ZIP_STORED)
        with archive.open("chain.jsonl", "w") as file:
            for link in links_of(kitchen):
                link_values = {key: link[key] for key in ("number", "before", "payload", "digest")}
                file.write((json.dumps(link_values, ensure_ascii=False) + "\n").encode())
        anchors = "".join(json.dumps(row) + "\n" for row in anchors_of(kitchen))
        archive.writestr("anchors.jsonl", anchors)
        archive.write(Path(__file__).parent / "check_chain.py", "check_chain.py")
        walked = verify(kitchen)
        about = {
            "format": "open-ember/export", "version": 1, "kitchen": str(kitchen), "at": kitchen.now().isoformat(),
            "rows": counts, "chain": {"records": walked.records, "holds": walked.holds, "digest": walked.digest},
        }  # fmt: skip
        archive.writestr("about.json", json.dumps(about, indent=1))
    return counts
