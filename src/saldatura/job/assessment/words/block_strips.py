"""What `block_strips` says."""

SINGLE_CELL_HAS_NO = "a single cell has no strips to solve"


def l_to(tap: int, a: str, b: str) -> str:
    return f"L{tap} {a} to {b}"


def layer_taken_off(material_words: str, layers: int, take_off: str) -> str:
    return f"{material_words}, {layers} layer{'s' if layers > 1 else ''}, taken off at the {take_off}"
