"""A virtual pack: its clock, what drives it, what is measured, and going on where it stood."""

import json

import numpy as np
import pytest

from saldatura.battery.errors import Impossible
from saldatura.battery.meter import Meter
from saldatura.battery.pack import WireFault
from saldatura.battery.pack.spec import PackSpec
from saldatura.instruments.meter import StandInMeter
from saldatura.instruments.steady import SteadyWatch
from saldatura.instruments.virtual import VirtualPack
from saldatura.shop.instrument import Probes, Saved
from tests.instruments.conftest import PACK, Wall
from tests.refusing import refuses


def soc(pack: VirtualPack) -> np.ndarray:
    return pack.rig.state.soc.mean(axis=1)


def test_the_clock_runs_as_fast_as_it_is_set_and_stands_while_paused(virtual: VirtualPack, wall: Wall) -> None:
    wall.later(10)
    virtual.set_clock(60, paused=False)
    wall.later(2)
    virtual.settle()
    assert virtual.clock_s == pytest.approx(10 + 120)
    virtual.set_clock(60, paused=True)
    wall.later(1000)
    virtual.settle()
    virtual.set_clock(600, paused=False)
    assert virtual.clock_s == pytest.approx(130)
    for speed in (0.5, 601, float("nan"), float("inf")):
        with refuses("speed_out_of_range"):
            virtual.set_clock(speed, paused=False)
    assert virtual.speed == 600


def test_what_goes_in_is_amps_times_simulated_time_at_any_speed(wall: Wall) -> None:
    for speed, step in ((1, 1.0), (60, 0.2), (600, 0.2)):
        pack = VirtualPack(PACK, PackSpec(soc=[0.4], with_board=False), wall=wall)
        pack.set_clock(speed, paused=False)
        pack.hook("load")
        pack.set_source("load", on=True, amps=4.0)
        start = soc(pack)
        while pack.clock_s < 600 - 1e-6:
            wall.later(step)
            pack.settle()
        # 4 A for 600 s out of 5 Ah, and self-discharge of two parts in a million in that time.
        assert start - soc(pack) == pytest.approx(np.full(4, 4 * pack.clock_s / 3600 / 5.0), rel=1e-3)
        assert pack.sources["load"].ah == pytest.approx(4 * pack.clock_s / 3600, rel=1e-6)


def test_a_cell_charger_stops_at_its_end_current_and_a_supply_goes_on(virtual: VirtualPack) -> None:
    virtual.hook("cell_charger")
    virtual.set_source("cell_charger", on=True, group=3, volts=4.1, amps=2.5, cutoff_a=0.25)
    virtual.pass_time(4 * 3600)
    charger = virtual.sources["cell_charger"]
    assert (charger.on, charger.doing) == (False, "done")
    assert virtual.samples[-1].amps == pytest.approx(0.25, abs=0.01)
    gained = (soc(virtual)[2] - 0.3) * 5.0
    assert charger.ah == pytest.approx(gained, rel=0.01)
    virtual.hook("supply")
    virtual.set_source("supply", on=True, volts=16.6, amps=2.5)
    virtual.pass_time(4 * 3600)
    assert virtual.sources["supply"].on


def test_a_capacity_test_ends_at_its_voltage_with_what_came_out(virtual: VirtualPack) -> None:
    virtual.hook("capacity_tester")
    virtual.set_source("capacity_tester", on=True, amps=5.0, low_v=13.0)
    before = soc(virtual)
    virtual.pass_time(3600)
    tester = virtual.sources["capacity_tester"]
    assert (tester.on, tester.doing) == (False, "done")
    assert tester.ah == pytest.approx(float((before - soc(virtual))[1] * 5.0), rel=0.01)
    assert tester.ah == pytest.approx(5.0 * tester.seconds / 3600, rel=1e-6)
    assert 13.0 * tester.ah < tester.wh < 16.0 * tester.ah


def test_nothing_is_lost_between_saving_and_going_on(virtual: VirtualPack, wall: Wall) -> None:
    virtual.hook("cell_charger")
    virtual.set_source("cell_charger", on=True, group=1, volts=4.2, amps=2.0, cutoff_a=0.1)
    virtual.pass_time(1234)
    saved = Saved.model_validate(json.loads(virtual.save().model_dump_json()))
    again = VirtualPack(PACK, virtual.spec, saved, wall=wall)
    for pack in (virtual, again):
        pack.pass_time(600)
    assert again.clock_s == pytest.approx(virtual.clock_s)
    assert soc(again) == pytest.approx(soc(virtual), abs=1e-12)
    assert again.sources == virtual.sources
    other = PACK.model_copy(update={"series": 5})
    with refuses("another_pack"):
        VirtualPack(other, PackSpec(soc=[0.5]), saved, wall=wall)


@pytest.mark.parametrize("seconds", [10.0005, 0.0004, 20.00099, 299.9999])
def test_no_length_of_time_breaks_a_running_pack(virtual: VirtualPack, seconds: float) -> None:
    virtual.hook("load")
    virtual.set_source("load", on=True, amps=1.0)
    for _ in range(3):
        virtual.pass_time(seconds)
    assert virtual.clock_s == pytest.approx(3 * seconds, abs=0.004)


@pytest.mark.parametrize(
    ("spec", "field"),
    [
        ({"soc": [0.5, 0.5]}, "soc"),
        ({"soc": [0.5], "faults": [WireFault(kind="open", tap=9)]}, "faults.0.tap"),
        ({"soc": [0.5], "curve": 20}, "curve"),
    ],
)
def test_packs_that_cannot_be_are_refused(spec: dict, field: str) -> None:
    with pytest.raises(Impossible) as refused:
        VirtualPack(PACK, PackSpec.model_validate(spec))
    assert refused.value.field == field


def test_the_meter_stays_within_what_it_states_and_its_hands_take_a_moment(virtual: VirtualPack, wall: Wall) -> None:
    stated = Meter(percent=0.5, digits=2, resolution_v=0.01)
    errors = []
    for seed in range(40):
        pack = VirtualPack(PACK, PackSpec(soc=[0.5], seed=seed), wall=wall)
        meter = StandInMeter(pack, stated, "1", hands=False)
        pack.place(Probes(at="taps", black=0, red=4))
        true = pack.true_volts()
        errors.append(abs(meter.volts() - true) / (true * 0.005 + 0.02))
    assert 0.3 < max(errors) <= 1
    meter, watch = StandInMeter(virtual, stated, "1"), SteadyWatch.for_meter(stated)
    taken: dict[int, float] = {}
    for red in (1, 2):
        virtual.place(Probes(at="taps", black=red - 1, red=red))
        assert abs(meter.volts()) < 0.05  # on the way, the probes are in the air
        for _ in range(15):
            wall.later(0.2)
            steady = watch.see(wall(), meter.volts())
            if steady.volts is not None:
                taken[steady.touch] = steady.volts
    groups = virtual.rig.group_v
    # Lifted probes are no touch; the two groups are one each.
    assert list(taken.values()) == pytest.approx(groups[:2].tolist(), rel=0.006)


def test_probes_on_nothing_are_refused(virtual: VirtualPack) -> None:
    for probes in (Probes(at="taps", black=0, red=5), Probes(at="taps", black=2, red=2)):
        with pytest.raises(Impossible):
            virtual.place(probes)


def test_the_board_cuts_a_test_that_would_run_a_group_flat(virtual: VirtualPack) -> None:
    virtual.hook("capacity_tester")
    virtual.set_source("capacity_tester", on=True, amps=5.0, low_v=8.0)
    virtual.pass_time(3600)
    assert virtual.sources["capacity_tester"].doing == "cut"
    assert float(virtual.rig.group_v.min()) > 2.5


def test_loose_leads_read_as_the_taps_they_come_from(wall: Wall) -> None:
    spec = PackSpec(soc=[0.5, 0.55, 0.3, 0.5], seed=5, loose={"pink": 3, "bare": 1, "also bare": 1})
    pack = VirtualPack(PACK, spec, wall=wall)
    pack.place(Probes(at="leads", black_lead="pink", red_lead="bare"))
    assert pack.true_volts() == pytest.approx(-float(pack.rig.group_v[1:3].sum()), abs=1e-3)
    pack.place(Probes(at="leads", black_lead="bare", red_lead="also bare"))
    assert pack.true_volts() == 0.0
    with refuses("no_such_lead"):
        pack.place(Probes(at="leads", black_lead="pink", red_lead="blue"))
    with refuses("no_such_tap"):
        VirtualPack(PACK, PackSpec(soc=[0.5], loose={"pink": 5}))
