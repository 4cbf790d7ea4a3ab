"""A simulated pack as it now is: the charge of the groups that are left, and the faults of what is still in it."""

from saldatura.battery.pack.faults import ContactFault, Fault, SensorFault, WireFault
from saldatura.battery.pack.spec import PackSpec
from saldatura.job.facts.structure import Structure


def spec_now(spec: PackSpec, structure: Structure, said: int) -> PackSpec:
    """The spec that the fact `said` gave, as it reads of the pack of that structure."""
    soc = list(spec.soc)
    for shift in structure.shifts:
        if shift.fact > said and 1 < len(soc) >= shift.at:
            del soc[shift.at - 1]
    faults = [kept for fault in spec.faults if (kept := _fault(fault, structure, said)) is not None]
    loose = {name: structure.tap(tap, said) for name, tap in spec.loose.items()}
    return spec.model_copy(update={"soc": soc, "faults": faults, "loose": loose})


def _fault(fault: Fault, structure: Structure, said: int) -> Fault | None:
    if isinstance(fault, WireFault):
        ends = {
            "tap": structure.tap(fault.tap, said),
            "other": None if fault.other is None else structure.tap(fault.other, said),
        }
        return None if ends["tap"] == ends["other"] else fault.model_copy(update=ends)
    if isinstance(fault, SensorFault) or fault.group is None:
        return fault
    group = (
        structure.group(fault.group, said) if isinstance(fault, ContactFault) else structure.holds(fault.group, said)
    )
    return None if group is None else fault.model_copy(update={"group": group})
