"""What `wired` says."""

BOARD_WANTS_EVERY_WIRE = "That board wants every wire where it is: it can be plugged in once each pin is read."


def tap_so_wire(tap: int | None, wire: str) -> str:
    return f"tap {tap}, so the {wire} wire"


def tap_so_its_wire(tap: int | None) -> str:
    return f"tap {tap}, so its wire"


def read_its_ohms(sensor: str) -> str:
    return f"{sensor}: read its ohms in Measures"


def pack_plus_group(last: int) -> str:
    return f"pack plus, group {last}"


def plus_of_group(tap: int) -> str:
    return f"plus of group {tap}"


def tap_which_this_pack(tap: int) -> str:
    return f"tap {tap}, which this pack does not have"


def pin_of(pin: int, name: str) -> str:
    return f"Pin {pin} of {name}"


def do_not_plug(wrong_count: int, wires_count: int, pin: int, sees: str, wants: str) -> str:
    return f"Do not plug that board in as it is pinned: {wrong_count} of {wires_count} pins differ, and its pin {pin} would see {sees} where {wants} belongs. Choose to pin the connector anew, and the list moves one wire at a time."
