"""Supplies and loads that disobey, over acts, faults and restarts as the dice fall: none on in silence while it is wanted off."""

import random
import tempfile
from pathlib import Path

from tests.api.test_off_means_off import Shop, walk
from tests.conftest import Clock

from saldatura.battery.limits import minding
from saldatura.instruments import link
from saldatura.instruments.hub import minded, switchboard


def outputs(walks: int, seed: int) -> list[str]:
    """So many walks, each with a shop of its own; what came through, with the seed that shows it again."""
    # As in the tests: what is waited for is shortened, and nothing else.
    minding.LOST_S = 0.6
    minded.POLL_S = 0.05
    switchboard.AGAIN_S, link.TIMEOUT_MS = 0.1, 400
    wrong = []
    for number in range(walks):
        with tempfile.TemporaryDirectory() as folder:
            shop = Shop(Path(folder) / "shop.sqlite3", Clock())
            try:
                walk(shop, random.Random(seed + number), 20)
            except AssertionError as error:
                wrong.append(f"outputs, seed {seed + number}: {error}")
            finally:
                shop.close()
    return wrong
