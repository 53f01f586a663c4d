"""Where things are and how they are reached: from the environment, with defaults for a checkout."""

from __future__ import annotations

import os
from dataclasses import dataclass
from pathlib import Path

#: The checkout (or the folder the package was installed from).
PROJECT = Path(__file__).resolve().parents[2]


@dataclass(frozen=True)
class Settings:
    """`home` holds all that Verdad writes: logs, state, kernels, and its own PostgreSQL data unless told otherwise."""

    home: Path
    #: An external PostgreSQL, where VERDAD_DATABASE_URL names one.
    database_url: str | None
    #: A team's Dask scheduler, where VERDAD_SCHEDULER names one ("tcp://...").
    scheduler: str | None
    web: Path
    #: The address of the makers' catalogue, where VERDAD_CATALOGUE names one.
    catalogue: str | None
    #: Where the own PostgreSQL server keeps its data, where VERDAD_POSTGRES_DATA names a folder.
    postgres_data: Path | None

    @classmethod
    def from_environment(cls) -> Settings:
        data = os.environ.get("VERDAD_POSTGRES_DATA")
        return cls(
            home=Path(os.environ.get("VERDAD_HOME", PROJECT / ".verdad")).resolve(),
            database_url=os.environ.get("VERDAD_DATABASE_URL"),
            scheduler=os.environ.get("VERDAD_SCHEDULER"),
            web=PROJECT / "web" / "dist",
            catalogue=os.environ.get("VERDAD_CATALOGUE"),
            postgres_data=Path(data).resolve() if data else None,
        )
