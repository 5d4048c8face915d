"""Lets in who is signed in: refuses every other request as soon as there are accounts.

The pages themselves, the sign-in and the health are open to all. A server that listens beyond this machine
answers nothing else while there are no accounts. A WebSocket ends with the session that it was opened in.
"""

import threading
import time
from contextlib import suppress
from http.cookies import CookieError, SimpleCookie

from cachetools import TTLCache
from sqlalchemy.exc import DBAPIError
from sqlalchemy.exc import TimeoutError as PoolTimeout
from starlette.concurrency import run_in_threadpool
from starlette.datastructures import Headers
from starlette.types import ASGIApp, Message, Receive, Scope, Send
from starlette.websockets import WebSocketDisconnect

from idle_shimmer.api.server.error_answers import refusal
from idle_shimmer.api.server.faults import database_refusal
from idle_shimmer.store.accounts import accounts
from idle_shimmer.store.accounts.accounts import Identity
from idle_shimmer.store.authors import acting_as
from idle_shimmer.store.database import session_scope

COOKIE = "idle_shimmer_signed_in"
# The close code of a WebSocket whose page has to sign in first.
SIGN_IN_FIRST = 4401
_OPEN = ("/api/session", "/api/health")
_NO_ACCOUNTS = "this server has no accounts: add one with idle-shimmer user add NAME on the machine that it runs on"
# An account that is removed elsewhere is let in so much longer.
_KNOWN_S = 5


class Gate:
    """What is known of accounts and cookies, for a few seconds, so that not each request asks.

    ``is_public`` is True for a server that listens beyond this machine.
    """

    def __init__(self, *, is_public: bool = False) -> None:
        self.is_public = is_public
        self._identities: TTLCache[str, Identity] = TTLCache(4096, _KNOWN_S)
        self._lock = threading.Lock()
        self._required, self._asked_at = True, -float(_KNOWN_S)

    def is_required(self) -> bool:
        """Whether there are accounts."""
        if time.monotonic() - self._asked_at >= _KNOWN_S:
            with session_scope() as session:
                self._required = accounts.accounts_exist(session)
            self._asked_at = time.monotonic()
        return self._required

    def identity(self, token: str) -> Identity | None:
        """Return whose token it is."""
        with self._lock:
            known = self._identities.get(token)
        if known is None:
            with session_scope() as session:
                known = accounts.identity_of(session, token)
            if known is not None:
                with self._lock:
                    self._identities[token] = known
        return known

    def forget(self) -> None:
        """Ask anew from now on: somebody signed out or changed a password."""
        with self._lock:
            self._identities.clear()
        self._asked_at = -float(_KNOWN_S)


class SignInRequired:
    """Refuses requests to the API without a valid cookie, WebSockets included."""

    def __init__(self, app: ASGIApp, gate: Gate) -> None:
        self._app, self._gate = app, gate

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Answer a request or refuse it."""
        if scope["type"] not in ("http", "websocket") or not scope["path"].startswith("/api/"):
            await self._app(scope, receive, send)
            return
        try:
            required, identity = await run_in_threadpool(self._known, cookie_of(scope))
        except (DBAPIError, PoolTimeout) as error:
            if scope["path"] != "/api/health":
                await database_refusal(error)(scope, receive, send)
                return
            required, identity = False, None
        scope["idle_shimmer.identity"] = identity
        if self._gate.is_public and not required and scope["path"] != "/api/health":
            await _refuse(503, _NO_ACCOUNTS, scope, receive, send)
        elif not required or identity is not None or scope["path"] in _OPEN:
            if required and scope["type"] == "websocket":
                send = self._while_signed_in(cookie_of(scope), send)
            with acting_as(identity.name if identity else None):
                await self._app(scope, receive, send)
        else:
            await _refuse(401, "sign in first", scope, receive, send)

    def _while_signed_in(self, token: str | None, send: Send) -> Send:
        """Return a way to send that ends the WebSocket once its session has ended."""

        async def send_or_end(message: Message) -> None:
            if message["type"] == "websocket.send":
                identity = await run_in_threadpool(self._gate.identity, token or "")
                if identity is None:
                    await send({"type": "websocket.close", "code": SIGN_IN_FIRST})
                    raise WebSocketDisconnect(SIGN_IN_FIRST)
            await send(message)

        return send_or_end

    def _known(self, token: str | None) -> tuple[bool, Identity | None]:
        required = self._gate.is_required()
        return required, self._gate.identity(token) if required and token else None


async def _refuse(status: int, message: str, scope: Scope, receive: Receive, send: Send) -> None:
    if scope["type"] == "websocket":
        await receive()
        await send({"type": "websocket.close", "code": SIGN_IN_FIRST, "reason": message})
    else:
        await refusal(status, message)(scope, receive, send)


def cookie_of(scope: Scope) -> str | None:
    """Return the token of a request."""
    with suppress(CookieError):
        found = SimpleCookie(Headers(scope=scope).get("cookie", "")).get(COOKIE)
        return found.value if found is not None else None
    return None
