"""What a job taught its pattern, as a hand took it over."""

from saldatura.job.facts.pattern import LessonTaken
from saldatura.ledger.kind import Kind

KIND = Kind("lesson", LessonTaken, closed=True, signed=True)
