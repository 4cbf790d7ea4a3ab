"""What each field means, by its name, or by class and name where the same name means something of its own."""

from saldatura.battery.glossary.base import BASE
from saldatura.battery.glossary.joining import JOINING
from saldatura.battery.glossary.levelling import LEVELLING
from saldatura.battery.glossary.plans import PLANS
from saldatura.battery.glossary.proving import PROVING

GLOSSARY: dict[str, str] = {**BASE, **PLANS, **JOINING, **LEVELLING, **PROVING}
