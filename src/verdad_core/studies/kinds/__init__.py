"""The table of kinds of study: a kind is one file here and one row below."""

from verdad_core.studies.kind import StudyKind
from verdad_core.studies.kinds.monte_carlo import MonteCarlo
from verdad_core.studies.kinds.sweep import Sweep
from verdad_core.studies.kinds.temperature import Temperature
from verdad_core.studies.kinds.worst_case import WorstCase

KINDS: tuple[type[StudyKind], ...] = (MonteCarlo, WorstCase, Temperature, Sweep)
