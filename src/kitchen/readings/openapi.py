"""The readings API as OpenAPI 3.1, from the models that validate it."""

from __future__ import annotations

from typing import Any

from pydantic.json_schema import models_json_schema

from .api import MOST_READINGS, ClockIn, ReadingsIn

VERSION = "1"
ERROR = {
    "type": "object", "required": ["error"],
    "properties": {"error": {
        "type": "object", "required": ["code", "message"],
        "properties": {"code": {"type": "string"}, "message": {"type": "string"}, "at": {"type": "string"}},
    }},
}  # fmt: skip
KEPT = {
    "type": "object", "required": ["kept", "repeated", "refused"],
    "properties": {
        "kept": {"type": "integer", "description": "New readings that are kept now."},
        "repeated": {"type": "integer", "description": "Readings that were kept before; nothing is doubled."},
        "refused": {"type": "array", "items": {
            "type": "object", "properties": {"index": {"type": "integer"}, "message": {"type": "string"}},
        }},
        "clock_off_s": {"type": "number", "description": "How far the device's clock was off; it was put right."},
    },
}  # fmt: skip
CLOCK = {
    "type": "object", "required": ["now", "rate"],
    "properties": {"now": {"type": "string", "format": "date-time"}, "rate": {"type": "number"}},
}  # fmt: skip
COOKS = {
    "type": "object", "required": ["now", "cooks"],
    "properties": {
        "now": {"type": "string", "format": "date-time"},
        "cooks": {"type": "array", "items": {
            "type": "object",
            "properties": {
                "id": {"type": "string", "format": "uuid"}, "name": {"type": "string"}, "plan": {"type": "object"},
                "steps": {"type": "array", "items": {"type": "object"}},
                "started_at": {"type": "string", "format": "date-time"},
                "events": {"type": "array", "items": {"type": "object"}},
                "reports": {"type": "array", "items": {"type": "object"}},
                "probes": {"type": "array", "items": {"type": "string"}},
            },
        }},
    },
}  # fmt: skip


def _json(schema: dict[str, Any], words: str) -> dict[str, Any]:
    return {"description": words, "content": {"application/json": {"schema": schema}}}


def _asked(name: str) -> dict[str, Any]:
    return {"required": True, "content": {"application/json": {"schema": {"$ref": f"#/components/schemas/{name}"}}}}


def document() -> dict[str, Any]:
    """The OpenAPI document."""
    _, schemas = models_json_schema(
        [(ReadingsIn, "validation"), (ClockIn, "validation")], ref_template="#/components/schemas/{model}"
    )
    refused = {
        "401": _json(ERROR, "Unknown or revoked token."),
        "405": _json(ERROR, "Another method."),
    }
    return {
        "openapi": "3.1.0",
        "info": {
            "title": "Open Ember readings", "version": VERSION,
            "description": "How a device sends temperatures. Late, repeated and unordered batches are fine.",
        },
        "security": [{"token": []}],
        "paths": {
            "/api/v1/readings": {"post": {
                "summary": "Keep a batch of readings", "operationId": "postReadings",
                "requestBody": _asked("ReadingsIn"),
                "responses": {
                    "200": _json(KEPT, "What became of the batch; a bad reading is refused alone."),
                    "413": _json(ERROR, f"More than {MOST_READINGS} readings."),
                    "422": _json(ERROR, "Not understood: nothing is kept. Or every reading was refused."),
                    **refused,
                },
            }},
            "/api/v1/clock": {
                "get": {"summary": "The kitchen's time", "operationId": "getClock",
                        "responses": {"200": _json(CLOCK, "Now."), **refused}},
                "post": {"summary": "The pace of a demonstration's clock", "operationId": "postClock",
                         "requestBody": _asked("ClockIn"),
                         "responses": {"200": _json(CLOCK, "Now."), "403": _json(ERROR, "Not a demonstration."),
                                       "422": _json(ERROR, "Not understood."), **refused}},
            },
            "/api/v1/cooks": {"get": {
                "summary": "What this device's probes are in", "operationId": "getCooks",
                "responses": {"200": _json(COOKS, "Running cooks."), **refused},
            }},
        },
        "components": {
            "securitySchemes": {"token": {"type": "http", "scheme": "bearer"}},
            "schemas": schemas["$defs"],
        },
    }  # fmt: skip
