"""What is said where an instrument is not switched on, or not let go: each named by its code."""

from saldatura.battery.wording import figure

NOT_TAUGHT = "was not taught: a held display would guard nothing. Instruments teaches it"
SIMULATED_PACK = "this pack is simulated: its stand-in load runs it; clip a real load to a real pack"
LASTS_UNKNOWN = "how long it should last cannot be told: read every group at rest first"
SWITCHED_OFF_MEANWHILE = "it was switched off again while it was being switched on"
SAY_WHICH_GROUP = "say which group the meter is clipped to"
DRIVEN_BY_INSTRUMENT = "another instrument drives this pack; take it off in Instruments first"
LOG_KEPT_HERE = "the program logged this charge itself; nothing takes that log's place"


def meter_guards(job_id: int) -> str:
    return f"that meter guards the load run of job {job_id}; end that first"


def in_load_run(job_id: int) -> str:
    return f"it is in the load run of job {job_id}; end that first"


def settings_not_taken(name: str, wrong: str) -> str:
    return f"{name} does not take its settings: {wrong}. Nothing is switched on"


def no_answer(name: str, says: str) -> str:
    return f"{name} does not answer ({says}); nothing is switched on"


def no_answer_while_on(name: str, says: str) -> str:
    return f"{name} does not answer ({says}); it is told to be off until it says so"


def not_switched_on(name: str, complaint: str | None) -> str:
    return f"{name} does not switch on: {complaint or 'it says that it is off'}"


def end_what_was_begun(says: str) -> str:
    return f"{says}. Nothing is switched on; end this charge with what its group reads"


def leads_elsewhere(name: str, volts: float, least_v: float, most_v: float) -> str:
    return (
        f"the leads of {name} read {figure(volts, 2)} V, and this pack has {least_v:.1f} to {most_v:.1f} V: they are on "
        "another, the wrong way round or in the air, or it is empty. Nothing is switched on"
    )


def meter_elsewhere(group: int | None, volts: float | None) -> str:
    shown = "nothing" if volts is None else f"{figure(volts, 2)} V"
    return f"the meter that should guard group {group} reads {shown}, which is no group of this pack; nothing is switched on"


def meter_not_live(name: str, says: str) -> str:
    return f"{name} {says}; a run is not begun on a guard that does not see what is there now"


def group_on_channel(channel: str, group: int) -> str:
    return f"{channel} charges group {group}; end that first"


def not_said_off(channel: str) -> str:
    return f"{channel} does not say that it is off: pull its clips, then end the charge once more"


def charge_ended(group: int) -> str:
    return f"group {group} is not to be charged any more: its charge ended, or was taken back"
