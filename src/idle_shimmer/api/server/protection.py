"""Keeps strangers' pages out: hosts, origins, content types and the headers of every answer.

A page of another website can send requests to this server through its visitor's browser. Such a
request is refused before anything runs. Sources: Fetch Standard (Origin, Sec-Fetch-Site), Content
Security Policy Level 3, RFC 9110 section 7.2 (Host).
"""

import base64
import hashlib
import json
import re
from collections.abc import Iterable
from urllib.parse import urlsplit

import structlog
from starlette.datastructures import Headers, MutableHeaders
from starlette.exceptions import HTTPException
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from idle_shimmer.limits import limits, size_text

LOOPBACK_HOSTS = ("127.0.0.1", "localhost", "[::1]")
_log = structlog.get_logger(__name__)
_BODY_TYPES = ("application/json", "application/octet-stream")
_CHANGING = ("POST", "PUT", "PATCH", "DELETE")
_INLINE_SCRIPT = re.compile(r"<script>(.*?)</script>", re.DOTALL)
# The close code of a WebSocket that is refused by policy (RFC 6455 section 7.4.1).
_POLICY_VIOLATION = 1008
# The pages that may open a WebSocket.
_SCHEME_OF_PAGE = {"ws": "http", "wss": "https"}


def page_policy(html: str) -> str:
    """Return the Content-Security-Policy of a page: its own files, and its inline scripts by hash."""
    hashes = [
        "'sha256-" + base64.b64encode(hashlib.sha256(script.encode()).digest()).decode() + "'"
        for script in _INLINE_SCRIPT.findall(html)
    ]
    return "; ".join(
        [
            "default-src 'self'",
            " ".join(["script-src 'self'", *hashes]),
            # The page places handles and curves by their style attributes.
            "style-src 'self' 'unsafe-inline'",
            "img-src 'self' data: blob:",
            "font-src 'self' data:",
            "connect-src 'self'",
            "object-src 'none'",
            "base-uri 'none'",
            "form-action 'self'",
            "frame-ancestors 'none'",
        ]
    )


class Protection:
    """Refuses requests of foreign hosts and origins, and sets the headers of every answer.

    ``hosts`` are the names under which the server may be addressed, without port.
    """

    def __init__(self, app: ASGIApp, hosts: Iterable[str] = LOOPBACK_HOSTS) -> None:
        self._app = app
        self._hosts = frozenset(host.lower() for host in hosts)

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Answer a request or refuse it."""
        if scope["type"] not in ("http", "websocket"):
            await self._app(scope, receive, send)
            return
        refusal = self._refusal(scope)
        if refusal is None:
            limited = _Limited(receive, _most_bytes(scope))
            await self._app(scope, limited, _with_headers(scope, send))
            return
        _log.warning("refused", path=scope["path"], status=refusal[0], reason=refusal[1])
        if scope["type"] == "websocket":
            await receive()
            await send({"type": "websocket.close", "code": _POLICY_VIOLATION, "reason": refusal[1]})
        else:
            await _refuse(_with_headers(scope, send), *refusal)

    def _refusal(self, scope: Scope) -> tuple[int, str] | None:
        """Return status and message of a request that is refused."""
        address = scope.get("raw_path", b"") + scope.get("query_string", b"")
        if len(address) > limits().max_address_length:
            return 414, f"the address is longer than {limits().max_address_length} characters"
        if "\0" in scope["path"]:
            return 400, "the address contains a zero byte"
        headers = Headers(scope=scope)
        host = headers.get("host", "")
        if _name_of(host) not in self._hosts:
            return (
                421,
                f"this server does not answer to the name {_name_of(host) or 'in the request'}",
            )
        if self._is_foreign(headers, scope["scheme"], host):
            return 403, "a page of another website sent this request: it is refused"
        if scope["type"] == "http" and scope["method"] in _CHANGING and _has_body(headers):
            kind = headers.get("content-type", "").split(";")[0].strip().lower()
            if kind not in _BODY_TYPES:
                wanted = " or ".join(_BODY_TYPES)
                return 415, f"the content type must be {wanted}, not {kind or 'left out'}"
            return _refused_length(scope, headers)
        return None

    @staticmethod
    def _is_foreign(headers: Headers, scheme: str, host: str) -> bool:
        """Whether a browser says that the request comes from another website's page."""
        origin = headers.get("origin")
        if origin is not None:
            own = _SCHEME_OF_PAGE.get(scheme, scheme), host.lower()
            if (urlsplit(origin).scheme, urlsplit(origin).netloc.lower()) != own:
                return True
        return headers.get("sec-fetch-site") == "cross-site" and (
            headers.get("sec-fetch-mode") != "navigate"
        )


class BodyTooLarge(HTTPException):
    """A body went on beyond what its content type may have."""

    def __init__(self, most_bytes: int) -> None:
        super().__init__(413, _too_large(most_bytes))


class _Limited:
    """Receives the body of a request as long as it is within its limit."""

    def __init__(self, receive: Receive, most_bytes: int) -> None:
        self._receive, self._most = receive, most_bytes
        self._received = 0

    async def __call__(self) -> Message:
        """Return the next message. Raises BodyTooLarge."""
        message = await self._receive()
        if message["type"] == "http.request":
            self._received += len(message.get("body", b""))
            if self._received > self._most:
                raise BodyTooLarge(self._most)
        return message


def _refused_length(scope: Scope, headers: Headers) -> tuple[int, str] | None:
    """Refuse a body by the length that it announces, before any of it is read."""
    announced = headers.get("content-length")
    if announced is None:
        return None
    if not announced.isdecimal():
        return 400, "the length of the body is not a number"
    most = _most_bytes(scope)
    return (413, _too_large(most)) if int(announced) > most else None


def _most_bytes(scope: Scope) -> int:
    kind = Headers(scope=scope).get("content-type", "").split(";")[0].strip().lower()
    is_file = kind == "application/octet-stream"
    return limits().max_upload_bytes if is_file else limits().max_body_bytes


def _too_large(most_bytes: int) -> str:
    return f"the body is too large: at most {size_text(most_bytes)} are accepted"


def _name_of(host: str) -> str:
    """Return a Host header without its port."""
    return re.sub(r":\d+$", "", host.strip().lower())


def _has_body(headers: Headers) -> bool:
    return headers.get("content-length", "0") != "0" or "transfer-encoding" in headers


def _with_headers(scope: Scope, send: Send) -> Send:
    """Return ``send`` with the headers that every answer carries."""

    async def sending(message: Message) -> None:
        if message["type"] == "http.response.start":
            headers = MutableHeaders(scope=message)
            headers.setdefault("X-Content-Type-Options", "nosniff")
            headers.setdefault("Referrer-Policy", "same-origin")
            headers.setdefault("Cross-Origin-Resource-Policy", "same-origin")
            if scope["path"].startswith("/api/"):
                headers.setdefault("Cache-Control", "no-store")
        await send(message)

    return sending


async def _refuse(send: Send, status: int, message: str) -> None:
    body = json.dumps({"problems": [{"field": None, "message": message}]}).encode()
    headers = [(b"content-type", b"application/json"), (b"connection", b"close")]
    await send({"type": "http.response.start", "status": status, "headers": headers})
    await send({"type": "http.response.body", "body": body})
