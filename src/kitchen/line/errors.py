"""What goes wrong on the line, in words for the cook."""


class LineError(Exception):
    """Something that cannot be done to a cook now."""
