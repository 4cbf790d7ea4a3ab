"""The fixed words of the bench: symptoms as customers say them, safety questions."""

from saldatura.battery.verdict import Symptom
from saldatura.job.facts.intake import Danger
from saldatura.job.facts.work import Did
from saldatura.job.stages import Standing

SYMPTOMS: dict[Symptom, str] = {
    "full_at_once": "charges to full at once",
    "dies_under_load": "dies under load",
    "short_run": "runs only a short while",
    "cuts_out": "cuts out, then comes back",
    "dead": "does nothing at all",
    "charger_refuses": "charger will not start",
    "fan_or_lamp_only": "light work only",
    "stood_unused": "stood unused for months",
    "was_dropped": "was dropped",
    "got_wet": "got wet",
}

SAFETY: dict[Danger, str] = {
    "swollen": "Is the case or a cell swollen?",
    "leaking": "Is anything leaking, or are there crystals?",
    "hot": "Is it warmer than the room with nothing connected?",
    "wet": "Is it wet, or was it under water?",
    "crushed": "Is a cell crushed, dented or punctured?",
    "smell": "Does it smell of solvent or burning?",
}

# What is done to a pack beside charging it.
DID: dict[Did, str] = {
    "cleaned": "Cleaned",
    "reseated": "Plugged in anew",
    "mended_wire": "Wire mended",
    "resoldered": "Soldered anew",
    "rewelded": "Welded anew",
    "insulated": "Insulated",
    "replaced_part": "Part replaced",
    "let_down": "Let down over a resistor",
    "dried": "Dried",
    "other": "Done",
}

# How a job stands that is at no stage.
STANDINGS: dict[Standing, str] = {"quarantine": "Quarantine", "done": "Handed back", "scrap": "Scrapped"}
