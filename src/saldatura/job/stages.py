"""The stages of the work in their order, each once: its key, its name, and what it still wants of a job."""

from typing import Literal, get_args

Stage = Literal["take_in", "probe", "judge", "plan", "join", "level", "prove", "hand_over"]
Standing = Literal[
    "quarantine", "take_in", "probe", "judge", "plan", "join", "level", "prove", "hand_over", "done", "scrap"
]

STAGES: dict[Stage, str] = {
    "take_in": "Take in",
    "probe": "Probe",
    "judge": "Judge",
    "plan": "Plan",
    "join": "Join",
    "level": "Level",
    "prove": "Prove",
    "hand_over": "Hand over",
}
STANDINGS: tuple[Standing, ...] = get_args(Standing)
