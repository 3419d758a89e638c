"""Equipment, devices with their probes, and the checks of both."""

from .calibration import Taught
from .checks import KitCheck
from .equipment import Equipment
from .probes import Device, DeviceClock, Probe

__all__ = ["Device", "DeviceClock", "Equipment", "KitCheck", "Probe", "Taught"]
