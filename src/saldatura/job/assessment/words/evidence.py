"""What `evidence` says."""

PATTERN_SAYS = "The pattern says which groups feed the board"
CUSTOMER_SAYS = "As the customer says"


def groups_as_read_before(evidence_count: int) -> str:
    return f"{evidence_count} groups as read before"


def charge_of_group(group: int) -> str:
    return f"The charge of group {group}"
