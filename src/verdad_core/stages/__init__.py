"""Ready stages to start a circuit from: own drawings of well-known circuits, with values computed from goal figures."""

from __future__ import annotations

from verdad_core.stages.amplifiers import AMPLIFIERS
from verdad_core.stages.filters import FILTERS
from verdad_core.stages.stage import Computed, Stage, compute
from verdad_core.stages.supporting import SUPPORTING
from verdad_core.stages.switching import SWITCHING

#: All of them by key, in the order in which they are shown.
STAGES: dict[str, Stage] = {stage.key: stage for stage in (*AMPLIFIERS, *FILTERS, *SUPPORTING, *SWITCHING)}

__all__ = ["STAGES", "Computed", "Stage", "compute"]
