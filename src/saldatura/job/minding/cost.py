"""What an alarm costs if it is missed: by that the loudest is chosen, and only what costs time may be put off."""

from collections.abc import Mapping
from typing import Literal

from saldatura.job.minding.charge import AlarmKind

# Danger: somebody can be hurt, or something burns; cells: a cell is spoilt; time: the pack lies about.
Cost = Literal["danger", "cells", "time"]

COST_OF: Mapping[AlarmKind, Cost] = {
    "off_unconfirmed": "danger", "stop_it": "danger", "warm": "danger", "too_fast": "danger", "sibling": "danger",
    "not_rising": "cells", "precharge_long": "cells", "stopped": "cells", "misfit": "cells", "ended": "time",
}  # fmt: skip

# Of what is waited for and is over, or is to be looked at: a charge goes on where nobody looks; what rests, sets or is empty keeps.
COST_OF_WAIT: Mapping[str, Cost] = {
    "charge": "cells",
    "rest": "time",
    "cure": "time",
    "cool": "time",
    "capacity": "time",
    "self_discharge": "time",
}
