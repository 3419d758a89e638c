"""What a kitchen has: equipment, probes with their devices, and the checks of both."""

from .checks import KitCheck
from .equipment import Equipment
from .probes import Device, Probe, hash_token

__all__ = ["Device", "Equipment", "KitCheck", "Probe", "hash_token"]
