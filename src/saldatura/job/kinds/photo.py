"""A photo."""

from saldatura.job import taking_back
from saldatura.job.facts.photo import PhotoFact
from saldatura.job.gates import common as gates
from saldatura.ledger.kind import Kind

KIND = Kind("photo", PhotoFact, fits=lambda facts, _fact, _b: gates.photo(facts), against=taking_back.nothing)
