"""Redundant readings of a string to group voltages, with what does not fit explained."""

from saldatura.core.reconcile.solve import (
    Finding,
    GroupVolts,
    KnownSum,
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
    reconcile,
    reconcile_pack,
)

__all__ = [
    "Finding",
    "GroupVolts",
    "KnownSum",
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
