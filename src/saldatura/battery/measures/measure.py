"""Measures beside the readings, kept as facts: what was measured is stored, what it means is computed when it is read."""

from typing import Annotated

from pydantic import Field

from saldatura.battery.measures.kinds.acir import AcirMeasure
from saldatura.battery.measures.kinds.board_limits import BoardMeasure
from saldatura.battery.measures.kinds.capacity import CapacityFile, CapacityMeasure
from saldatura.battery.measures.kinds.full_charge import FullChargeMeasure
from saldatura.battery.measures.kinds.joint import JointMeasure
from saldatura.battery.measures.kinds.load_run import LoadRunMeasure
from saldatura.battery.measures.kinds.path import PathMeasure
from saldatura.battery.measures.kinds.registers_read import RegistersMeasure
from saldatura.battery.measures.kinds.sensor import SensorMeasure
from saldatura.battery.measures.kinds.step import StepMeasure
from saldatura.battery.measures.kinds.wiggle import WiggleMeasure

Kept = Annotated[
    AcirMeasure
    | StepMeasure
    | SensorMeasure
    | PathMeasure
    | WiggleMeasure
    | CapacityMeasure
    | LoadRunMeasure
    | FullChargeMeasure
    | JointMeasure
    | BoardMeasure
    | RegistersMeasure,
    Field(discriminator="kind"),
]
NewMeasure = Annotated[
    AcirMeasure
    | StepMeasure
    | SensorMeasure
    | PathMeasure
    | WiggleMeasure
    | CapacityMeasure
    | CapacityFile
    | LoadRunMeasure
    | FullChargeMeasure
    | JointMeasure
    | BoardMeasure
    | RegistersMeasure,
    Field(discriminator="kind"),
]
