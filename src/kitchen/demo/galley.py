"""Every probe of the demonstration's galley, in one process that `./ember start` runs: pieces, and the water of a bath.

It speaks to the readings API alone, like the devices it stands for, and follows what is tapped. While the clock is held
nothing is sent. After "start the evening again" its tokens change: they are read anew.
"""

from __future__ import annotations

import argparse
import datetime as dt
import sys
import time
from pathlib import Path

import numpy as np

from ember.errors import EmberError

from .simulated_faults import Sender
from .simulated_probe import DEVICES, Api, SimulatedBath, SimulatedProbe

EVERY_S = 2.0
SIZE, MEDIUM_K, NOISE_K = 1.0, 0.0, 0.05
BATH_SET_C = 56.2
SLIPPED_IN = "Turkey for the long crossing"
SEEDS = {"probe": 7, "wires": 8, "bath": 9}


class Galley:
    """The devices with the tokens that stand in a folder."""

    def __init__(self, url: str, folder: Path) -> None:
        self.url, self.folder = url, folder
        self.tokens: dict[str, str] = {}
        self.devices: dict[str, tuple[SimulatedProbe | SimulatedBath, Sender]] = {}
        self.sent_at: dict[str, dt.datetime] = {}
        self.read_tokens()

    def read_tokens(self) -> None:
        """Make the devices anew whose token changed."""
        for device, name in DEVICES.items():
            path = self.folder / name
            token = path.read_text().strip() if path.exists() else ""
            if token and token != self.tokens.get(device):
                self.tokens[device] = token
                self.devices[device] = self._device(device, Api(self.url, token))

    def _device(self, device: str, api: Api) -> tuple[SimulatedProbe | SimulatedBath, Sender]:
        if device == "bath":
            return SimulatedBath(api, BATH_SET_C, NOISE_K, SEEDS[device]), Sender(api)
        return SimulatedProbe(api, SIZE, MEDIUM_K, NOISE_K, SEEDS[device], SLIPPED_IN), Sender(api)

    def tick(self) -> None:
        """Send a reading of every probe, unless no time has passed. Raises OSError if the server does not respond,
        RuntimeError if it refuses a token.
        """
        for device, (simulated, sender) in self.devices.items():
            readings, now = simulated.measure()
            if readings and now > self.sent_at.get(device, now - dt.timedelta(seconds=1)):
                sender.send(readings, now)
            self.sent_at[device] = now


def let_the_evening_go_on() -> None:
    """Set the clock back to where the evening stood when the application was stopped."""
    import django

    django.setup()
    from kitchen.accounts.models import Kitchen

    from .clock import go_on
    from .kitchen import KITCHEN

    kitchen = Kitchen.objects.filter(is_demo=True, name=KITCHEN["name"]).order_by("-pk").first()
    if kitchen is not None:
        go_on(kitchen)


def main(arguments: list[str]) -> int:
    """Run until stopped."""
    parser = argparse.ArgumentParser(description="All probes of the demonstration.")
    parser.add_argument("--url", required=True)
    parser.add_argument("--tokens", type=Path, required=True, help="folder of the devices' tokens")
    parser.add_argument("--ticks", type=int, default=0, help="stop after so many")
    options = parser.parse_args(arguments)
    let_the_evening_go_on()
    galley = Galley(options.url, options.tokens)
    count = 0
    while options.ticks == 0 or count < options.ticks:
        try:
            galley.tick()
        except (OSError, EmberError) as error:
            print(f"waiting: {error}", file=sys.stderr, flush=True)
        except RuntimeError as error:
            print(f"refused: {error}", file=sys.stderr, flush=True)
            galley.read_tokens()
        count += 1
        time.sleep(EVERY_S)
    return 0


if __name__ == "__main__":
    np.seterr(all="ignore")
    try:
        sys.exit(main(sys.argv[1:]))
    except KeyboardInterrupt:
        sys.exit(0)
