"""What `odd_charges` says."""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from collections.abc import Mapping

    from saldatura.job.assessment.odd_charges import Odd


WHY_ODD: Mapping[Odd, str] = {
    "too_soon": "it ended in a tenth of its least time or less", "too_little": "next to none of its charge went in",
    "too_warm": "it grew warmer than cells may be charged", "too_high": "it read above what its charger was set to",
}  # fmt: skip
