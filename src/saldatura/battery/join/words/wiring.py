"""What `wiring` says."""


def pin_goes_to_tap(pin: int, tap: int, sensor: str) -> str:
    return f"pin {pin} goes to tap {tap} and to {sensor}; a wire goes to one place"


def pin_of_is_listed(twice: int, name: str) -> str:
    return f"pin {twice} of {name} is listed twice; once each"
