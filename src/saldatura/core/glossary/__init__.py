"""What each field means, by its name, or by class and name where the same name means something of its own."""

from saldatura.core.glossary.base import BASE
from saldatura.core.glossary.joining import JOINING
from saldatura.core.glossary.plans import PLANS

GLOSSARY: dict[str, str] = {**BASE, **PLANS, **JOINING}
