"""What is said of a string at rest."""

from saldatura.battery.string.lead_types import Lead
from saldatura.battery.wording import counted


def shared_fall_says(drift: float, days: float, shared: float) -> str:
    """The sentence for a fall that all groups share."""
    return (
        f"All groups fell by {abs(drift) * 1000:.0f} mV in {counted(days, 'day')}: more than temperature and meter explain. About {shared:.0f} mAh a day "
        f"({shared / 24:.2g} mA) leaves the whole string: the board or something joined to it draws, or every cell discharges itself. Take the board's plug off, rest, read again."
    )


def hazard_caution(amps: float) -> str:
    """The caution at a pack whose short gives so many amps."""
    size = f"up to about {amps / 1000:.1f} kA" if amps >= 1000 else f"up to about {round(amps, -1):.0f} A"
    return f"A short gives {size}: rings and tools weld. Rings off, one probe tip sleeved to its last 2 mm."


def why_floating(lead: Lead, wanders: bool) -> str:
    """Why a loose lead is called open."""
    if wanders:
        return f"{lead.lead} wanders from reading to reading: it is open, and the meter pulls it"
    return f"{lead.lead} at {lead.volts:.2f} V lies on no tap: it is open, and what it shows is leakage"
