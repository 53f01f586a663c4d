"""Whether who asked is still there: what nobody waits for need not be computed."""

from __future__ import annotations

import asyncio
import threading
from collections.abc import Callable
from typing import Annotated

from fastapi import Depends, Request
from starlette.types import ASGIApp, Message, Receive, Scope, Send


class Presence:
    """Listens for the end of a connection while its request is answered; see `Gone`."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        gone = threading.Event()
        scope.setdefault("state", {})["gone"] = gone
        messages: asyncio.Queue[Message] = asyncio.Queue(maxsize=4)

        async def listen() -> None:
            ended = False
            while not ended:
                message = await receive()
                ended = message["type"] == "http.disconnect"
                if ended:
                    gone.set()
                await messages.put(message)

        listener = asyncio.create_task(listen())
        try:
            await self.app(scope, messages.get, send)
        finally:
            listener.cancel()


def _gone(request: Request) -> Callable[[], bool]:
    event: threading.Event = request.state.gone
    return event.is_set


#: Says whether the client that asked has gone away.
Gone = Annotated[Callable[[], bool], Depends(_gone)]
