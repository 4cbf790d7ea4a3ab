"""What this package says: sentences with what goes into them, each named by its first words."""

from saldatura.battery.wording import typed

PRACTICE_CHARGES_NO_PACK = "a practice supply sits on a cell of its own; it is read, and charges no pack"
NEVER_PROVED = "it was never proved"
HOURS_END_AFTER_THEY_BEGIN = "these hours end before they begin; give a later end, or a second stretch past midnight"
AWAY_TOO_LONG = "longer than 120 days; change the hours of the week instead"


def no_address_in_numbers(host: str) -> str:
    return f"“{host}” is no address in numbers; type it as the instrument shows it, e.g. 192.168.1.40"


def not_in_private_network(host: str) -> str:
    return (
        f"{host} is not in a private network; only this machine (127.…) and 10.…, 172.16–31.…, 192.168.… are contacted"
    )


def lies_outside_welders(setting: float, lowest: float, highest: float) -> str:
    return f"{typed(setting)} lies outside the welder's {typed(lowest)} to {typed(highest)}"


def proved_days_ago(days: int) -> str:
    return f"it was proved {days} days ago"


def put_in_times_since(uses: int) -> str:
    return f"it was put in {uses} times since it was proved"


def there_is_no_instrument(instrument: float) -> str:
    return f"there is no instrument {instrument}; Instruments lists those there are"


def read_only_supply_single(name: str) -> str:
    return f"a {name} is read; only a supply, a single-cell charger or a load is switched"


def pack_of_job_end(busy: str, busy_2: int) -> str:
    return f"{busy} is on a pack of job {busy_2:04d}; end that charge first"


def part_is_told_twice(twice: str) -> str:
    return f"{twice} is told twice; say how many, or where each sits"


def no_serial_port(path: str) -> str:
    return f"“{path}” is no serial port; choose one from the list of ports, such as /dev/ttyUSB0"


def no_usb_instrument(device: str) -> str:
    return f"“{device}” is no USB instrument; choose one from the list of ports, such as /dev/usbtmc0"


def streams_by_serial_port(name: str) -> str:
    return f"only a meter or a thermometer on a serial port sends lines by itself; a {name} is asked in SCPI"


def port_is_taken(name: str) -> str:
    return f"{name} is entered at that port already; remove it there first"


def is_asked_not_taught() -> str:
    return "this instrument is asked in SCPI; only a meter that sends lines by itself is taught"
