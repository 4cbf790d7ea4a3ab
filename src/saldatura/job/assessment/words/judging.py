"""What `judging` says."""


def swap_with_tells_nothing(name: str) -> str:
    return f"The swap with {name} tells nothing: {name} was found at fault since. Try another part."
