from __future__ import annotations

import pytest

from verdad_core.intake import experiment


@pytest.fixture(autouse=True)
def patient(monkeypatch: pytest.MonkeyPatch) -> None:
    """A busy machine must not decide what a test finds: the experiment stops itself late."""
    monkeypatch.setattr(experiment, "PATIENCE", 120.0)
