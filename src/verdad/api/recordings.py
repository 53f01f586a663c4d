"""Recorded signals, uploaded to become the waveform of a source."""

from __future__ import annotations

from fastapi import APIRouter, UploadFile
from pydantic import BaseModel

from verdad.api.context import InContext
from verdad.api.problems import problems
from verdad_core.document.waveforms import Recorded
from verdad_core.errors import Finding
from verdad_core.interchange.recordings import read_recording

router = APIRouter(prefix="/api/recordings", tags=["checks"])


class RecordingView(BaseModel):
    """A waveform made of a file; it is kept nowhere but in the board that it is put into."""

    waveform: Recorded
    findings: list[Finding]


@router.post("", responses=problems())
def take_recording(file: UploadFile, context: InContext) -> RecordingView:
    """Read a CSV or WAV file."""
    recording = context.apart.read(read_recording, file.filename or "recording", file.file.read())
    return RecordingView(waveform=recording.waveform, findings=list(recording.findings))
