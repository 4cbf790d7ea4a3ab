"""Sign the job off: inputs, results and program version are frozen."""

from collections.abc import Mapping, Sequence
from contextlib import suppress

from saldatura import __version__
from saldatura.battery.errors import Impossible, Refused
from saldatura.battery.prove.checks import Proof
from saldatura.job.assessment import assess, assess_set, groups_now, judged_now, opens_again, proof_of
from saldatura.job.assessment.condemned import lost_of
from saldatura.job.assessment.proving import proof_plan_now
from saldatura.job.facts import JobFacts, NewSignOff, SignOffFact
from saldatura.job.gates.common import not_condemned, not_parted, not_signed, work
from saldatura.job.moment import Moment
from saldatura.ledger.fact import Fact
from saldatura.ledger.kind import Kind
from saldatura.ledger.registry import written


def _sign_off_gate(facts: JobFacts, new: NewSignOff, moment: Moment) -> None:
    probe, proving = (assess_set(facts, purpose, moment.policy) for purpose in ("probe", "prove"))
    groups = groups_now(facts, probe, moment.policy)
    tests = proof_plan_now(facts, moment.at, moment.clock, moment.policy, moment.distrusted(facts)).tests
    failed = [test.label.lower() for test in tests if test.outcome == "fail"]
    proof = proof_of(facts, proving, groups, moment.at, moment.clock, moment.policy)
    sign_off(facts, proof, new, failed, lost_of(facts, moment.policy))


def _sign_off_fits(facts: JobFacts, fact: Fact, _before: dict[int, Fact]) -> None:
    """What a file says was signed is what can be shown of it, and not before anything was done."""
    if not opens_again(facts.with_facts([fact])):
        raise Impossible(
            "results", "results_not_signed_here", "hold nothing that this program, or an earlier one, would have signed"
        )


def _signed(facts: JobFacts, new: NewSignOff, moment: Moment) -> list[Fact]:
    results = assess(facts, moment.at, moment.clock, moment.policy)
    if results.troubles:
        raise Impossible("job", "results_in_trouble", f"it cannot be frozen as it stands: {results.troubles[0]}")
    inputs = {"facts": [written(fact) for fact in facts.whole], "policy": moment.policy.model_dump()}
    frozen = results.model_dump(mode="json")
    # Evidence that contradicts itself keeps no pack from its owner: that judgement is left out.
    with suppress(Impossible):
        frozen["judged"] = judged_now(
            facts, moment.confirmed(facts.id), moment.policy, moment.distrusted(facts), moment.of_model(facts)
        ).model_dump(mode="json")
    frozen["proof_plan"] = proof_plan_now(
        facts, moment.at, moment.clock, moment.policy, moment.distrusted(facts)
    ).model_dump(mode="json")
    signed = SignOffFact(
        **dict(new),
        **moment.stamp,
        program_version=__version__,
        simulated=facts.simulated,
        inputs=inputs,
        results=frozen,
    )
    papers = moment.papers(facts.with_facts([signed.model_copy(update={"id": facts.last_id + 1})]))
    return [signed.model_copy(update={"results": {**frozen, **papers}})]


def closing(facts: JobFacts, new: NewSignOff) -> None:
    """Nothing is closed while something charges; a pack in quarantine only as scrap."""
    not_signed(facts)
    if facts.charging is not None:
        raise Refused("charging", "group_charging", "a group is still charging; end the charge in Level first")
    if new.outcome != "scrap":
        work(facts)
        return
    for field, what in (
        ("reason", "why the pack is scrapped"),
        ("went", "where it went, such as the collection it was given to"),
    ):
        if len(getattr(new, field).strip()) < 3:
            raise Impossible(field, "say_it", f"say {what}")


def sign_off(
    facts: JobFacts,
    proof: Proof | None,
    new: NewSignOff,
    failed: Sequence[str] = (),
    lost: Mapping[int, str] | None = None,
) -> None:
    """Signed with a pass, or with a recorded reason; never while something charges, nor with condemned cells in it, whatever the reason.
    `failed`: tests of the plan that did not hold; `lost`: groups that are condemned, and why.
    """
    closing(facts, new)
    if new.outcome == "handed_back":
        not_condemned(lost or {})
        not_parted(facts)
    if failed and len(new.reason.strip()) < 3:
        raise Refused(
            "proof",
            "proof_failed",
            f"{' and '.join(failed)} did not hold; give the reason why the pack is handed back all the same",
        )
    if (proof is None or proof.result != "pass") and len(new.reason.strip()) < 3:
        raise Refused(
            "proof", "not_proved", "Prove has not passed; give the reason why the pack is handed back all the same"
        )


KIND = Kind(
    "sign_off",
    SignOffFact,
    NewSignOff,
    gate=_sign_off_gate,
    make=_signed,
    fits=_sign_off_fits,
    path="sign-off",
    summary="Sign the job off: inputs, results and program version are frozen.",
    creates=False,
)
