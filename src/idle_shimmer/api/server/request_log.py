"""Gives each request an id, which its answer and every line of its log carry, and logs it.

A fault of the program is logged here with its trace, and answered in words.
"""

import re
import time
import uuid

import structlog
from starlette.datastructures import Headers, MutableHeaders
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from idle_shimmer.api.server.error_answers import refusal

_HEADER = "X-Request-ID"
_ID = re.compile(r"[A-Za-z0-9._-]{1,64}")
_log = structlog.get_logger(__name__)


class RequestLog:
    """Logs every request to the API with its status and duration."""

    def __init__(self, app: ASGIApp) -> None:
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Answer a request inside its log context."""
        if scope["type"] not in ("http", "websocket"):
            await self._app(scope, receive, send)
            return
        sent = Headers(scope=scope).get(_HEADER, "")
        # A proxy in front may have given it one.
        request_id = sent if _ID.fullmatch(sent) else uuid.uuid4().hex[:12]
        status = 0

        async def sending(message: Message) -> None:
            nonlocal status
            if message["type"] == "http.response.start":
                status = message["status"]
                MutableHeaders(scope=message)[_HEADER] = request_id
            await send(message)

        began = time.monotonic()
        with structlog.contextvars.bound_contextvars(request=request_id):
            try:
                await self._app(scope, receive, sending)
            except Exception:
                _log.exception("a fault of the program", path=scope["path"])
                if scope["type"] != "http" or status:
                    raise
                message = (
                    f"the server could not do this: its log has the details, under {request_id}"
                )
                await refusal(500, message)(scope, receive, sending)
            finally:
                if scope["path"].startswith("/api/"):
                    _log_request(scope, status, time.monotonic() - began)


def _log_request(scope: Scope, status: int, took_s: float) -> None:
    _log.info(
        "request",
        method=scope.get("method", "WEBSOCKET"),
        path=scope["path"],
        status=status or None,
        took_ms=round(took_s * 1000, 1),
        by=getattr(scope.get("idle_shimmer.identity"), "name", None),
    )
