"""The session of a browser: signing in and out, changing the password."""

from typing import Annotated

from cachetools import TTLCache
from fastapi import APIRouter, HTTPException, Request, Response
from pydantic import BaseModel, Field

from idle_shimmer.api.errors import REFUSALS, Problems
from idle_shimmer.api.sign_in import COOKIE, Gate, cookie_of
from idle_shimmer.store import accounts
from idle_shimmer.store.accounts import MAX_PASSWORD, SIGNED_IN_FOR, Identity, WrongPassword
from idle_shimmer.store.database import session_scope

router = APIRouter(prefix="/api/session", tags=["session"], responses=REFUSALS)
_TRIES, _TRIES_WITHIN_S = 10, 300

Password = Annotated[str, Field(max_length=MAX_PASSWORD)]


class SessionOut(BaseModel):
    """Whether one has to sign in here, and as whom this browser is signed in."""

    required: bool
    name: str | None


class SignIn(BaseModel):
    """Who signs in."""

    name: Annotated[str, Field(max_length=200)]
    password: Password


class PasswordChange(BaseModel):
    """The password so far, and the new one."""

    current: Password
    new: Password


class Tries:
    """Failed attempts to sign in, by address and by name, of the last minutes."""

    def __init__(self) -> None:
        self._failed: TTLCache[str, int] = TTLCache(100_000, _TRIES_WITHIN_S)

    def are_spent(self, *keys: str) -> bool:
        """Whether there were too many of one of these."""
        return any(self._failed.get(key, 0) >= _TRIES for key in keys)

    def count(self, *keys: str) -> None:
        """Count one more."""
        for key in keys:
            self._failed[key] = self._failed.get(key, 0) + 1


@router.get("")
def get_session(request: Request) -> SessionOut:
    """Return whether one has to sign in, and as whom this browser is."""
    identity = _identity(request)
    gate: Gate = request.app.state.gate
    return SessionOut(required=gate.is_required(), name=identity.name if identity else None)


@router.post("", responses={429: {"model": Problems}})
def sign_in(request: Request, wanted: SignIn, response: Response) -> SessionOut:
    """Sign in; the answer sets a cookie. Too many failures have to wait a few minutes."""
    tries: Tries = request.app.state.tries
    keys = f"address {request.client.host if request.client else ''}", f"name {wanted.name.lower()}"
    if tries.are_spent(*keys):
        raise HTTPException(
            429,
            f"too many failed attempts: wait {_TRIES_WITHIN_S // 60} minutes, then try again",
            {"Retry-After": str(_TRIES_WITHIN_S)},
        )
    try:
        with session_scope() as session:
            token = accounts.sign_in(session, wanted.name, wanted.password)
            identity = accounts.identity_of(session, token)
    except WrongPassword:
        tries.count(*keys)
        raise
    request.app.state.gate.forget()
    _set_cookie(request, response, token, round(SIGNED_IN_FOR.total_seconds()))
    return SessionOut(required=True, name=identity.name if identity else None)


@router.delete("", status_code=204, response_class=Response)
def sign_out(request: Request, response: Response) -> None:
    """Sign this browser out."""
    if (token := cookie_of(request.scope)) is not None:
        with session_scope() as session:
            accounts.sign_out(session, token)
    request.app.state.gate.forget()
    _set_cookie(request, response, "", 0)


@router.put("/password", status_code=204, response_class=Response)
def change_password(request: Request, change: PasswordChange, response: Response) -> None:
    """Change the password, which signs out every browser but this one."""
    identity = _identity(request)
    if identity is None:
        raise HTTPException(401, "sign in first")
    with session_scope() as session:
        accounts.change_password(session, identity.account_id, change.current, change.new)
        token = accounts.sign_in(session, identity.name, change.new)
    request.app.state.gate.forget()
    _set_cookie(request, response, token, round(SIGNED_IN_FOR.total_seconds()))


def _identity(request: Request) -> Identity | None:
    found: Identity | None = request.scope.get("idle_shimmer.identity")
    return found


def _set_cookie(request: Request, response: Response, token: str, max_age_s: int) -> None:
    response.set_cookie(
        COOKIE,
        token,
        max_age=max_age_s,
        httponly=True,
        samesite="strict",
        # Behind TLS the proxy tells the scheme.
        secure=request.url.scheme == "https",
    )
