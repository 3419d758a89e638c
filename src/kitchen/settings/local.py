"""One kitchen on one machine, served on loopback by ./ember start."""

from .base import *  # noqa: F403
