"""The application: wires routers, errors, the runner and the built interface together."""

from __future__ import annotations

from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from pathlib import Path

from anyio import CapacityLimiter, to_thread
from fastapi import FastAPI, Response
from fastapi.staticfiles import StaticFiles
from pydantic import BaseModel
from sqlalchemy import Engine, NullPool, create_engine, text
from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import sessionmaker
from starlette.exceptions import HTTPException
from starlette.middleware.gzip import GZipMiddleware
from starlette.responses import Response as StarletteResponse
from starlette.types import Scope

from verdad.api import (
    asking,
    boards,
    checks,
    hand,
    intake,
    measured,
    models,
    parts,
    problems,
    qualifications,
    recordings,
    sheet,
    stress,
    studies,
    study_blame,
    study_envelope,
    study_remedies,
    study_rows,
    variants,
    verdict,
    vocabulary,
)
from verdad.api.context import Context, InContext
from verdad.api.guard import Guard
from verdad.api.presence import Presence
from verdad.db.session import connect
from verdad.runs.qualifier import Qualifier
from verdad.runs.runner import Runner
from verdad_core.netlist.lines import MAX_TEXT

#: Larger requests are cut off unread; what is smaller but still too large for a text is refused with its reason.
MAX_BODY = 10 * MAX_TEXT


_ROUTES = (
    asking, boards, checks, hand, intake, models, parts, qualifications, recordings, sheet, studies,
    measured, stress, study_blame, study_envelope, study_remedies, study_rows, variants, verdict, vocabulary,
)  # fmt: skip


class Health(BaseModel):
    """Whether the service can work, and what is missing when it cannot."""

    ok: bool
    database: str
    work: str = "goes on"


class _Interface(StaticFiles):
    """The built interface: unknown paths outside the API get index.html, whose router takes over."""

    async def get_response(self, path: str, scope: Scope) -> StarletteResponse:
        try:
            response = await super().get_response(path, scope)
        except HTTPException as error:
            if error.status_code != 404 or path.startswith("api") or "." in Path(path).name:
                raise
            response = await super().get_response("index.html", scope)
        # Files under assets carry a hash of what is in them in their names.
        lasting = path.startswith("assets") and response.status_code == 200
        response.headers["Cache-Control"] = "public, max-age=31536000, immutable" if lasting else "no-cache"
        return response


def _health(asking: Engine, context: Context) -> Health:
    ended = [worker.name for worker in (context.runner, context.qualifier) if worker.ended]
    work = f"the {' and the '.join(ended)} ended by a mistake; start Verdad again" if ended else "goes on"
    try:
        with asking.connect() as connection:
            connection.execute(text("select 1"))
    except SQLAlchemyError as error:
        return Health(ok=False, database=f"does not answer: {type(error).__name__}", work=work)
    return Health(ok=not ended, database="answers", work=work)


def create_app(
    database_url: str, scheduler: str | None = None, web: Path | None = None, catalogue: str | None = None
) -> FastAPI:
    """The service on a database that has been migrated.

    `web` is the folder of the built interface, `catalogue` the address of the makers' catalogue.
    """
    engine = connect(database_url)
    sessions = sessionmaker(engine, expire_on_commit=False)
    runner, qualifier = Runner(sessions, scheduler), Qualifier(sessions)
    context = Context(engine, sessions, runner, qualifier, catalogue)

    @asynccontextmanager
    async def lifespan(_: FastAPI) -> AsyncIterator[None]:
        runner.start()
        qualifier.start()
        yield
        qualifier.stop()
        runner.stop()
        engine.dispose()

    # The framework's own pages of documentation load scripts from a foreign host; docs/openapi.json says the same.
    app = FastAPI(
        title="Verdad", version="0.1.0", lifespan=lifespan, max_body_size=MAX_BODY, docs_url=None, redoc_url=None
    )
    app.add_middleware(Presence)
    app.add_middleware(Guard)
    app.state.context = context
    problems.install(app)
    for module in _ROUTES:
        app.include_router(module.router)

    # A connection and a thread of its own: it is answered while everything else is busy.
    probing, own = create_engine(engine.url, poolclass=NullPool), CapacityLimiter(1)

    @app.get("/healthz", tags=["health"], responses={503: {"model": Health}})
    async def healthz(context: InContext, response: Response) -> Health:
        """Whether the service, its database and what carries out its work are alive."""
        health = await to_thread.run_sync(_health, probing, context, limiter=own)
        response.status_code = 200 if health.ok else 503
        return health

    if web is not None and web.is_dir():
        app.mount("/", GZipMiddleware(_Interface(directory=web, html=True)))
    return app
