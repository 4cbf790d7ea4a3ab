"""The shop's own things: its meter, and what is known of chemistries."""

import tempfile
from collections.abc import Iterator
from contextlib import ExitStack
from typing import Annotated

from fastapi import APIRouter, Path, Response
from fastapi.responses import StreamingResponse
from pydantic import BaseModel

from saldatura import __version__
from saldatura.api.depends import Seen, TheBench
from saldatura.api.problems import INVALID, SHOP_ACT
from saldatura.battery.cell.curves import CURVE_SOURCES
from saldatura.battery.cell.windows import WINDOWS, Window
from saldatura.battery.judge.tables import cause_words
from saldatura.battery.limits.policy import Choice, Policy, choices
from saldatura.battery.measures.meters import CLASSES, MeterClass
from saldatura.battery.meter import Meter
from saldatura.battery.verdict import Symptom
from saldatura.battery.words import GLOSSARY
from saldatura.job import words
from saldatura.job.facts.intake import Danger, Wish
from saldatura.job.returns import Returns
from saldatura.job.stages import STAGES, STANDINGS
from saldatura.job.words import SCHEME_WORDS
from saldatura.shop.card import ShopCard
from saldatura.shop.facts import NewPolicy, PolicyFact
from saldatura.shop.instrument import KINDS, InstrumentKind
from saldatura.shop.reference import BlinkFact, NewBlink, NewReference, NewReferenceCheck, ReferenceCheck, ReferencePart

router = APIRouter(prefix="/api", tags=["shop"])


class Health(BaseModel):
    """The application is ready."""

    ready: bool
    version: str


class SymptomWords(BaseModel):
    """A symptom as customers say it."""

    key: Symptom
    words: str


class WishWords(BaseModel):
    """A wish in a customer's words, and what is said to it."""

    key: Wish
    words: str
    answer: str


class SafetyQuestion(BaseModel):
    """A question of the safety screen."""

    key: Danger
    question: str


class Named(BaseModel):
    """One of a fixed list, as it is said."""

    key: str
    name: str


class ShopPolicy(BaseModel):
    """The policy that holds, every choice it makes with reason and limits, and how it came to be, the last change first."""

    policy: Policy
    choices: list[Choice]
    history: list[PolicyFact]


class Terms(BaseModel):
    """The product's fixed words: chemistries with their windows, symptoms, safety questions, stages, kinds of
    instrument, kinds of work, causes, common classes of hand meter.
    """

    chemistries: list[Window]
    curve_sources: dict[str, str]
    symptoms: list[SymptomWords]
    wishes: list[WishWords]
    glossary: dict[str, str]
    safety: list[SafetyQuestion]
    stages: list[Named]
    standings: list[Named]
    orders: list[Named]
    instrument_kinds: list[InstrumentKind]
    works: list[Named]
    causes: list[Named]
    meters: list[MeterClass]


@router.get("/health")
def health() -> Health:
    """Answers once the application is ready."""
    return Health(ready=True, version=__version__)


@router.get("/card")
def card(bench: TheBench) -> ShopCard:
    """Who the shop is on its papers, and its money."""
    return bench.shop().card


@router.post("/card", responses=INVALID)
def set_card(bench: TheBench, new: ShopCard) -> ShopCard:
    """Set who the shop is, for every paper printed from now on."""
    return bench.add_to_shop(new).card


@router.get("/meter")
def meter(bench: TheBench) -> Meter:
    """The meter that new sets of readings are taken with."""
    return bench.meter()


@router.post("/meter", responses=INVALID)
def set_meter(bench: TheBench, new: Meter) -> Meter:
    """Enter another meter's accuracy, for sets begun from now on."""
    return bench.add_to_shop(new).meter


@router.get("/policy")
def policy(bench: TheBench) -> ShopPolicy:
    """The shop's policy."""
    shop = bench.shop()
    return ShopPolicy(policy=shop.policy, choices=choices(), history=shop.of_kind(PolicyFact)[::-1])


@router.post("/policy", responses=SHOP_ACT)
def set_policy(bench: TheBench, new: NewPolicy, seen: Seen = None) -> ShopPolicy:
    """Set the policy from now on, by whom and why; jobs signed before keep theirs."""
    bench.add_to_shop(new, seen)
    return policy(bench)


@router.get("/references")
def references(bench: TheBench) -> list[ReferencePart]:
    """The shop's reference parts, each with what it was last proved by."""
    return bench.references()


@router.post("/references", status_code=201, responses=INVALID)
def enter_reference(bench: TheBench, new: NewReference) -> list[ReferencePart]:
    """Enter a reference part."""
    bench.add_to_shop(new)
    return bench.references()


@router.post("/references/{reference_id}/checks", status_code=201, responses=INVALID)
def prove_reference(
    bench: TheBench, reference_id: Annotated[int, Path(ge=1, le=2**53)], new: NewReferenceCheck
) -> list[ReferencePart]:
    """Record that a reference part was itself proved, or found at fault."""
    bench.add_to_shop(ReferenceCheck(reference=reference_id, **dict(new)))
    return bench.references()


@router.get("/blinks")
def blinks(bench: TheBench) -> list[BlinkFact]:
    """What the lamps of the shop's packs mean."""
    return bench.shop().blinks


@router.post("/blinks", status_code=201, responses=INVALID)
def enter_blink(bench: TheBench, new: NewBlink) -> list[BlinkFact]:
    """Enter what a pattern of lamps means; of the same pack and pattern the last holds."""
    return bench.add_to_shop(new).blinks


@router.get("/returns")
def returns(bench: TheBench) -> Returns:
    """What came back of what was handed over, by kind of repair."""
    return bench.returns()


@router.get(
    "/shop/export.zip",
    response_class=Response,
    responses={200: {"content": {"application/zip": {}}, "description": "Facts, tables, photos and a dictionary"}},
)
def export_shop(bench: TheBench) -> StreamingResponse:
    """Everything recorded in this shop, as open files: JSON lines, CSV and a data dictionary."""
    # Beside the data and not in memory, which no shop's photos must fill.
    with ExitStack() as open_:
        whole = open_.enter_context(tempfile.TemporaryFile())
        bench.write_whole(whole)
        whole.seek(0)
        kept = open_.pop_all()

    def chunks() -> Iterator[bytes]:
        with kept:
            while chunk := whole.read(1 << 18):
                yield chunk

    headers = {"Content-Disposition": 'attachment; filename="shop.zip"'}
    return StreamingResponse(chunks(), media_type="application/zip", headers=headers)


@router.get("/terms")
def terms(bench: TheBench) -> Terms:
    """The words and windows that every screen shares, as the shop's policy has them."""
    held = bench.policy()
    return Terms(
        chemistries=[held.window(key) for key in WINDOWS],
        curve_sources=CURVE_SOURCES,
        symptoms=[SymptomWords(key=key, words=said) for key, said in words.SYMPTOMS.items()],
        wishes=[WishWords(key=key, words=said, answer=answer) for key, (said, answer) in words.WISHES.items()],
        glossary=dict(GLOSSARY),
        safety=[SafetyQuestion(key=key, question=asked) for key, asked in words.SAFETY.items()],
        stages=[Named(key=key, name=name) for key, name in STAGES.items()],
        standings=[Named(key=key, name=words.STANDINGS.get(key) or STAGES[key]) for key in STANDINGS],  # type: ignore[index]
        orders=[Named(key=key, name=name) for key, name in SCHEME_WORDS.items()],
        instrument_kinds=list(KINDS.values()),
        works=[Named(key=key, name=name) for key, name in words.DID.items()],
        causes=[Named(key=key, name=name) for key, name in cause_words().items()],
        meters=CLASSES,
    )
