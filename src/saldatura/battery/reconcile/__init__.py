"""Redundant readings of a string to group voltages, with what does not fit explained."""

from saldatura.battery.reconcile.types import (
    FairAccount,
    Finding,
    GroupVolts,
    KnownSum,
    LookAlike,
    OpenTap,
    PackDiffers,
    Reconciled,
    ReconcileRequest,
    ReversedProbes,
    ShiftedConnector,
    SumCheck,
    SwappedTaps,
    Undetermined,
    WrongReading,
)
from saldatura.battery.reconcile.whole import reconcile, reconcile_pack

__all__ = [
    "FairAccount",
    "Finding",
    "GroupVolts",
    "KnownSum",
    "LookAlike",
    "OpenTap",
    "PackDiffers",
    "ReconcileRequest",
    "Reconciled",
    "ReversedProbes",
    "ShiftedConnector",
    "SumCheck",
    "SwappedTaps",
    "Undetermined",
    "WrongReading",
    "reconcile",
    "reconcile_pack",
]
