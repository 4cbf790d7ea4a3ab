"""Redundant readings of a string to group voltages, with what does not fit explained."""

from saldatura.core.reconcile.solve import (
    Finding,
    GroupVolts,
    KnownSum,
    PackDiffers,
    Reconciled,
    ReconcileRequest,
    SumCheck,
    Undetermined,
    WrongReading,
    reconcile,
)

__all__ = [
    "Finding",
    "GroupVolts",
    "KnownSum",
    "PackDiffers",
    "ReconcileRequest",
    "Reconciled",
    "SumCheck",
    "Undetermined",
    "WrongReading",
    "reconcile",
]
