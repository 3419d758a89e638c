"""What a kitchen has: equipment, probes with their devices, and the checks of both."""

from .checks import KitCheck
from .equipment import Equipment
from .probes import Device, DeviceClock, Probe, hash_token
from .taught import Taught

__all__ = ["Device", "DeviceClock", "Equipment", "KitCheck", "Probe", "Taught", "hash_token"]
