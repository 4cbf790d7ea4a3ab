"""What the plan of tests says."""

EVERY_TEST_HOLDS = "Every test that is due holds"


def fails(failed: list[str]) -> str:
    return f"It fails: {', '.join(failed)}"


def tests_are_open(left_count: int, due_count: int) -> str:
    return f"{left_count} of {due_count} tests are open"
