"""What `sets` says."""

WOULD_SETTLE_WHAT_DOES = "would settle what does not fit"
RED_PROBES_TAP_LIES = "the red probe's tap lies above the black one's; name two taps in that order"
PICKED_IN_FIGURE = "picked in the figure"
SET_AGAINST_ITSELF_TELLS = "a set against itself tells nothing; name two"


def tap_does_not_exist(tap: int, series: int) -> str:
    return f"tap {tap} does not exist: taps 0 to {series}"


def job_has_no_set(set_id: int) -> str:
    return f"this job has no set {set_id}"
