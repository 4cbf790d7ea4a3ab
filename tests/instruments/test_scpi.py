"""The instrument's side of SCPI: headers, chained units, errors, status."""

import pytest

from saldatura.instruments.scpi import Instrument, number, spellings, switch


class Box(Instrument):
    """An instrument with one setting."""

    def __init__(self) -> None:
        super().__init__("box", "7")
        self.volts, self.out = 1.0, False
        self.on("SOURce:VOLTage[:LEVel]", lambda args: setattr(self, "volts", number(args, 0, 30)))
        self.on("SOURce:VOLTage[:LEVel]?", lambda _: self.volts)
        self.on("SOURce:CURRent?", lambda _: [1.0, 2.0])
        self.on("OUTPut[:STATe]", lambda args: setattr(self, "out", switch(args)))
        self.on("OUTPut[:STATe]?", lambda _: int(self.out))


def test_every_spelling_of_a_header_is_known() -> None:
    assert set(spellings("MEASure:VOLTage[:DC]?")) == {
        f"{m}:{v}{dc}?" for m in ("MEASURE", "MEAS") for v in ("VOLTAGE", "VOLT") for dc in (":DC", "")
    }


@pytest.mark.parametrize("header", ["SOURce:VOLTage", "sour:volt", "SOURCE:VOLT:LEV", ":source:voltage:level"])
def test_long_short_and_optional_nodes_mean_the_same(header: str) -> None:
    box = Box()
    assert box.handle(f"{header} 4.2") is None
    assert box.handle(f"{header}?") == "+4.200000E+00"


def test_units_are_chained_and_a_header_goes_on_where_the_last_one_ended() -> None:
    box = Box()
    assert box.handle("SOUR:VOLT 3;CURR?;:OUTP ON;OUTP?;*OPC?") == "+1.000000E+00,+2.000000E+00;1;1"
    assert box.volts == 3.0


@pytest.mark.parametrize(
    ("line", "code", "bit"),
    [
        ("SOUR:NOISE 3", -113, 32),
        ("SOUR:VOLT", -109, 32),
        ("SOUR:VOLT much", -104, 32),
        ("SOUR:VOLT 31", -222, 16),
        ("SOUR:VOLT nan", -222, 16),
        ("OUTP MAYBE", -224, 16),
    ],
)
def test_a_wrong_command_leaves_its_numbered_error_and_changes_nothing(line: str, code: int, bit: int) -> None:
    box = Box()
    assert box.handle(line) is None
    assert box.volts == 1.0
    assert box.handle("*ESR?") == str(bit)
    assert str(box.handle("SYST:ERR?")).startswith(f"{code},")
    assert box.handle("SYST:ERR?") == '0,"No error"'


def test_the_common_commands_answer_as_the_standard_says() -> None:
    box = Box()
    assert box.handle("*IDN?") == "Saldatura,box,7,1"
    assert box.handle("*ESE 32;*SRE 32;*ESE?;*SRE?") == "32;32"
    box.handle("BLAH")
    assert int(str(box.handle("*STB?"))) & (32 | 64 | 4) == 32 | 64 | 4
    box.handle("*CLS")
    assert box.handle("*STB?;*ESR?") == "0;0"
    for _ in range(40):
        box.handle("BLAH")
    codes = [str(box.handle("SYST:ERR?")).split(",")[0] for _ in range(17)]
    assert codes[-2:] == ["-350", "0"]
