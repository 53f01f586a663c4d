"""The service's process: `python -m verdad.serve --port N`, with the database named by VERDAD_DATABASE_URL."""

from __future__ import annotations

import argparse

import structlog
import uvicorn
from starlette.middleware.trustedhost import TrustedHostMiddleware

from verdad import logs
from verdad.api.app import create_app
from verdad.db.session import connect, migrate
from verdad.settings import Settings


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--port", type=int, required=True)
    port = parser.parse_args().port
    logs.configure()
    settings = Settings.from_environment()
    if settings.database_url is None:
        parser.error("VERDAD_DATABASE_URL is not set")
    engine = connect(settings.database_url)
    migrate(engine)
    engine.dispose()
    app = create_app(settings.database_url, settings.scheduler, settings.web, settings.catalogue)
    # A page of another site must not reach the service through a name of its own for this address.
    app.add_middleware(TrustedHostMiddleware, allowed_hosts=["127.0.0.1", "localhost"])
    structlog.get_logger().info("service starts", port=port)
    uvicorn.run(app, host="127.0.0.1", port=port, log_level="warning", timeout_graceful_shutdown=10)


if __name__ == "__main__":
    main()
