"""A day's hands, channels and tasks, and the plan of them."""

from collections import Counter
from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from saldatura.battery.day import words
from saldatura.battery.errors import Misfit
from saldatura.battery.quantities import Value

MOST_TASKS, MOST_WINDOWS, MOST_CHANNELS = 400, 400, 100
TaskName = Annotated[str, Field(min_length=1, max_length=80)]
ChannelName = Annotated[str, Field(min_length=1, max_length=80)]
AtS = Annotated[float, Field(ge=0, le=1e8)]


class Hands(Value):
    """A stretch of time in which somebody is there."""

    from_s: AtS = Field(description="When it begins, s.")
    to_s: AtS = Field(description="When it ends, s.")

    @model_validator(mode="after")
    def _lasts(self) -> Self:
        if self.to_s <= self.from_s:
            raise Misfit("to_s", "ends_before_begin", words.ENDS_BEFORE_IT_BEGINS)
        return self


class DayChannel(Value):
    """A channel, on which one task runs at a time."""

    name: ChannelName = Field(description="Name of the channel.")


class DayTask(Value):
    """A task: hands to begin it, then it runs by itself, on its channel where it has one; after which others; whether somebody must be in the room
    until it ends; when it should have ended, and how much it matters.
    """

    task: TaskName = Field(description="Name of the task.")
    job: Annotated[str, Field(max_length=80)] = Field("", description="Job that it belongs to; told back and not used.")
    hands_min: Annotated[float, Field(ge=0, le=10_000)] = Field(
        0.0, description="Hands that it takes to begin, minutes."
    )
    then_wait_min: Annotated[float, Field(ge=0, le=1e6)] = Field(
        0.0, description="How long it runs by itself then, minutes."
    )
    after: Annotated[list[TaskName], Field(max_length=50)] = Field([], description="Tasks that must have ended.")
    channel: ChannelName | None = Field(None, description="Channel that it runs on; none: it needs none.")
    attended: bool = Field(False, description="Whether somebody must be in the room until it ends.")
    due_s: AtS | None = Field(None, description="When it should have ended, s; none: no hurry.")
    weight: Annotated[float, Field(ge=0, le=1000)] = Field(1.0, description="How much its lateness matters.")
    begun: bool = Field(
        False,
        description="Whether it runs by itself already: it starts now, takes no hands, and waits for nothing. Default: no.",
    )

    @model_validator(mode="after")
    def _begun_takes_no_hands(self) -> Self:
        if self.begun and (self.hands_min or self.after):
            raise Misfit("begun", "begun_takes_no_hands", words.BEGUN_TAKES_NO_HANDS)
        return self


class DayRequest(Value):
    """Plan the tasks of a day."""

    now_s: AtS = Field(0.0, description="The time now, s: nothing begins before it.")
    hands: Annotated[list[Hands], Field(max_length=MOST_WINDOWS)] = Field(description="When somebody is there.")
    people: Annotated[int, Field(ge=1, le=50)] = Field(1, description="How many pairs of hands there are then.")
    tasks: Annotated[list[DayTask], Field(max_length=MOST_TASKS)] = Field(description="What is to be done.")
    channels: Annotated[list[DayChannel], Field(max_length=MOST_CHANNELS)] = Field([], description="What tasks run on.")

    @model_validator(mode="after")
    def _hangs_together(self) -> Self:
        names = [task.task for task in self.tasks]
        twice = next((name for name, count in Counter(names).items() if count > 1), None)
        if twice is not None:
            raise Misfit("tasks", "listed_twice", words.told_twice(twice))
        channels = [channel.name for channel in self.channels]
        if len(set(channels)) < len(channels):
            raise Misfit("channels", "listed_twice", words.CHANNEL_TOLD_TWICE)
        known = set(names)
        for i, task in enumerate(self.tasks):
            stranger = next((name for name in task.after if name not in known), None)
            if stranger is not None:
                raise Misfit(f"tasks.{i}.after", "no_such_task", words.no_such_task(stranger))
            if task.channel is not None and task.channel not in channels:
                raise Misfit(f"tasks.{i}.channel", "no_such_channel", words.no_such_channel(task.channel))
        return self


class DayStep(Value):
    """A task in the plan."""

    task: str = Field(description="Name of the task.")
    start_s: float = Field(description="When hands begin it, s.")
    hands_end_s: float = Field(description="When it runs by itself, s.")
    end_s: float = Field(description="When it has ended, s.")


class Unplaced(Value):
    """A task that has no place, and why."""

    task: str = Field(description="Name of the task.")
    because: str = Field(description="Why it has no place.")


class Late(Value):
    """A task that ends after it should."""

    task: str = Field(description="Name of the task.")
    by_s: float = Field(description="By how much it is late, s.")


class DayPlan(Value):
    """What to begin when, in the order of time. `how`: as good as any plan can be, the best that was found in the time there is, or by a rule
    because there are too many tasks.
    """

    steps: list[DayStep] = Field(description="Tasks in the order in which they begin.")
    unplaced: list[Unplaced] = Field(description="Tasks without a place.")
    late: list[Late] = Field(description="Tasks that end after they should.")
    finish_s: float = Field(description="When the last has ended, s.")
    bound_s: float = Field(description="What no plan could end before, s.")
    how: Literal["best", "good", "rule"] = Field(description="How far it was looked for.")
    says: str = Field(description="The same in a sentence.")
