"""The catalogue's own pages, and the same as JSON: a small service that stands in for makers' sites."""

from __future__ import annotations

import argparse
import base64
from itertools import groupby
from typing import Any

import uvicorn
from fastapi import FastAPI, HTTPException, Request, Response
from fastapi.responses import HTMLResponse, PlainTextResponse
from jinja2 import Environment, PackageLoader
from starlette.middleware.trustedhost import TrustedHostMiddleware

from verdad.catalogue.listing import Listing
from verdad.catalogue.listings import listings

_PAGES = Environment(loader=PackageLoader("verdad.catalogue"), autoescape=True)


def create_site() -> FastAPI:
    """The catalogue as an application."""
    site = FastAPI(title="Makers' catalogue", docs_url=None, redoc_url=None, openapi_url=None)

    @site.get("/", response_class=HTMLResponse)
    def home() -> str:
        makers = [(maker, list(parts)) for maker, parts in groupby(listings().values(), lambda part: part.maker)]
        return _PAGES.get_template("home.html").render(makers=makers)

    @site.get("/listings.json")
    def every(request: Request) -> list[dict[str, str]]:
        return [_shown(listing, request) for listing in listings().values()]

    @site.get("/parts/{slug}.json")
    def delivery(slug: str, request: Request) -> dict[str, Any]:
        listing = _found(slug)
        files = [
            {"name": name, "data": base64.b64encode(data).decode()} for name, data in listing.files.items()
        ]  # fmt: skip
        return {
            "listing": _shown(listing, request), "model": listing.model, "data_sheet": listing.data_sheet,
            "files": files,
        }  # fmt: skip

    @site.get("/parts/{slug}", response_class=HTMLResponse)
    def part(slug: str) -> str:
        return _PAGES.get_template("part.html").render(listing=_found(slug))

    @site.get("/parts/{slug}/data-sheet.csv", response_class=PlainTextResponse)
    def data_sheet(slug: str) -> str:
        return _found(slug).data_sheet

    @site.get("/parts/{slug}/files/{name}")
    def file(slug: str, name: str) -> Response:
        data = _found(slug).files.get(name)
        if data is None:
            raise HTTPException(404, "There is no such file.")
        return Response(
            data, media_type="text/plain", headers={"Content-Disposition": f'attachment; filename="{name}"'}
        )

    return site


def _found(slug: str) -> Listing:
    listing = listings().get(slug)
    if listing is None:
        raise HTTPException(404, "There is no such part.")
    return listing


def _shown(listing: Listing, request: Request) -> dict[str, str]:
    return {
        "slug": listing.slug, "part": listing.part, "maker": listing.maker, "kind": listing.kind,
        "summary": listing.summary, "released": listing.released,
        "link": f"{str(request.base_url).rstrip('/')}/parts/{listing.slug}",
    }  # fmt: skip


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--port", type=int, required=True)
    site = create_site()
    site.add_middleware(TrustedHostMiddleware, allowed_hosts=["127.0.0.1", "localhost"])
    uvicorn.run(site, host="127.0.0.1", port=parser.parse_args().port, log_level="warning")


if __name__ == "__main__":
    main()
