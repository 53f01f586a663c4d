"""What a browser may do here: only Verdad's own pages may write, and they load nothing from elsewhere."""

from __future__ import annotations

from urllib.parse import urlsplit

from starlette.datastructures import Headers, MutableHeaders
from starlette.responses import JSONResponse
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from verdad.api.problems import Problem

#: What the interface sends with every request. A page of another site cannot, without asking first, and is not allowed.
OWN_HEADER = "x-verdad"

_READS = ("GET", "HEAD", "OPTIONS")

#: Styles are written into the page by the components' library; pictures of curves are made in the page.
_POLICY = (
    "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data: blob:; worker-src 'self' blob:; "
    "frame-ancestors 'none'; base-uri 'self'; form-action 'self'"
)
_HEADERS = {
    "content-security-policy": _POLICY, "x-content-type-options": "nosniff", "referrer-policy": "same-origin",
    "x-frame-options": "DENY",
}  # fmt: skip


class Guard:
    """ASGI middleware around the application."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        if scope["method"] not in _READS and (why := _foreign(Headers(scope=scope))):
            problem = Problem(message=why, remedy="Use Verdad's own page.")
            await JSONResponse(problem.model_dump(mode="json"), status_code=403)(scope, receive, send)
            return

        async def with_headers(message: Message) -> None:
            if message["type"] == "http.response.start":
                headers = MutableHeaders(scope=message)
                for name, value in _HEADERS.items():
                    headers.setdefault(name, value)
            await send(message)

        await self.app(scope, receive, with_headers)


def _foreign(headers: Headers) -> str:
    """Why a write is not one of Verdad's own pages; empty where it is, or where no browser sent it."""
    site, origin = headers.get("sec-fetch-site"), headers.get("origin")
    if site in ("cross-site", "same-site"):
        return "a page of another site asked for this."
    if origin is not None and urlsplit(origin).netloc != headers.get("host", ""):
        return "a page of another origin asked for this."
    by_browser = site is not None or origin is not None
    is_json = headers.get("content-type", "").partition(";")[0].strip() == "application/json"
    if by_browser and not is_json and OWN_HEADER not in headers:
        return "the request does not say that it comes from Verdad's page."
    return ""
