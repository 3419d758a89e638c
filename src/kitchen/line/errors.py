"""Errors of the line, in words for the cook."""


class LineError(Exception):
    """An action that a cook does not allow at the moment."""
