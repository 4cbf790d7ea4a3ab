"""What `steps` says."""

BOARD_LETS_GO = "This disconnects the board from every tap at once."
END_OF_LEAD = "the end of the lead"
POLE_IT_CAME = "the pole it came from"
NO_CURRENT_FLOWS_THROUGH = "No current flows through the board or the device from here on."
SENSOR_THAT_HANGS_FREE = (
    "A loose sensor tells the board the air, not the cell. Read its ohms in Measures when it is in."
)


def black_on_pack_minus(tap: int) -> str:
    return f"black on pack minus, red on pin {tap}"


def more_cells_count(cells_count: int) -> str:
    return f" and {cells_count - 6} more"


IRON = "The iron touches this one joint; two seconds at most, then a pause."
