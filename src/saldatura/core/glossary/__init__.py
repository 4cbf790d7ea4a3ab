"""What each field means, by its name, or by class and name where the same name means something of its own."""

from saldatura.core.glossary.base import BASE
from saldatura.core.glossary.joining import JOINING
from saldatura.core.glossary.levelling import LEVELLING
from saldatura.core.glossary.plans import PLANS
from saldatura.core.glossary.proving import PROVING

GLOSSARY: dict[str, str] = {**BASE, **PLANS, **JOINING, **LEVELLING, **PROVING}
