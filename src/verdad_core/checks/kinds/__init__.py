"""The table of kinds of check: a kind is one file here and one row below."""

from verdad_core.checks.kind import CheckKind
from verdad_core.checks.kinds.dc_sweep import DcSweep
from verdad_core.checks.kinds.frequency_response import FrequencyResponse
from verdad_core.checks.kinds.impedance import Impedance
from verdad_core.checks.kinds.loop import Loop
from verdad_core.checks.kinds.margin import MarginCheck
from verdad_core.checks.kinds.noise import NoiseCheck
from verdad_core.checks.kinds.operating_point import OperatingPoint
from verdad_core.checks.kinds.ports import Ports
from verdad_core.checks.kinds.ringing import Ringing
from verdad_core.checks.kinds.steady_state import SteadyStateCheck
from verdad_core.checks.kinds.switched_loop import SwitchedLoop
from verdad_core.checks.kinds.transient import Transient

KINDS: tuple[type[CheckKind], ...] = (
    FrequencyResponse, Transient, SteadyStateCheck, Loop, Ringing, MarginCheck, SwitchedLoop, NoiseCheck, Impedance,
    Ports, DcSweep, OperatingPoint,
)  # fmt: skip
