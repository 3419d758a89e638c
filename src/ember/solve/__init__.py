"""Inverse questions: what to change so that the piece meets its target."""
