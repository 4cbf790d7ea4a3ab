"""What to do with a pack that the safety screen stops, danger by danger."""

from saldatura.battery.quantities import Value
from saldatura.job import words
from saldatura.job.facts.intake import Danger


class Instruction(Value):
    """What a danger asks of the bench before anything else."""

    danger: Danger
    found: str
    do: list[str]


_CLOSING = "Local fire, carriage and waste rules go before this sheet; ask whoever answers for them in your shop."

INSTRUCTIONS: dict[Danger, Instruction] = {
    "swollen": Instruction(
        danger="swollen",
        found="A cell is swollen: gas has formed inside.",
        do=[
            "Do not press, pierce, charge or discharge it.",
            "Outdoors or under a hood, in a lidded metal box on dry sand, two metres from anything that burns.",
            "The swollen cell is never used again; only its siblings may come back, after a release.",
        ],
    ),
    "leaking": Instruction(
        danger="leaking",
        found="Electrolyte is leaking.",
        do=[
            "Nitrile gloves and eye protection; air the room; do not smell at it.",
            "Into an open plastic tray with dry absorbent, outdoors. No water on it.",
            "Skin: wash with much water. Eyes: rinse fifteen minutes and see a doctor.",
        ],
    ),
    "hot": Instruction(
        danger="hot",
        found="The pack is hot with nothing connected: a cell is heating itself.",
        do=[
            "Do not open it. Carry it outdoors on a metal shovel, onto stone, away from windows.",
            "Watch it from a distance for two hours. Smoke or hissing: keep away and call the fire brigade.",
            "Much water cools a pack that vents; a powder extinguisher does not.",
        ],
    ),
    "wet": Instruction(
        danger="wet",
        found="The pack is wet inside.",
        do=[
            "Nothing is connected: water bridges taps that carry current.",
            "Let it drip outdoors, then dry it in moving air, not above 40 °C (104 °F), for two days, in a metal tray.",
            "Green or white traces on the taps mean corrosion: the board and the joints are checked before release.",
        ],
    ),
    "crushed": Instruction(
        danger="crushed",
        found="A cell is crushed or punctured: its separator may be torn.",
        do=[
            "Do not straighten, charge or discharge it. It can burn hours later.",
            "Outdoors in a lidded metal box on dry sand for a day before anyone opens it.",
            "The damaged cell is never used again.",
        ],
    ),
    "smell": Instruction(
        danger="smell",
        found="It smells of solvent or pear drops: a cell has vented.",
        do=[
            "Air the room and leave it for ten minutes; the vapour burns.",
            "Then outdoors into a lidded metal box on dry sand. No sparks, no heat gun.",
            "Find the vented cell before anything is released; it is never used again.",
        ],
    ),
}


def instructions(dangers: list[Danger], charging: int | None = None) -> list[Instruction]:
    """The instructions for the dangers found, with the one that always holds at the end of the last; before all others the
    charger, where one is on group `charging`.
    """
    chosen = [INSTRUCTIONS[h] for h in dangers]
    if chosen and charging is not None:
        off = words.group_is_charging_switch(charging)
        chosen[0] = chosen[0].model_copy(update={"do": [off, *chosen[0].do]})
    if chosen:
        last = chosen[-1]
        chosen[-1] = last.model_copy(update={"do": [*last.do, _CLOSING]})
    return chosen
