"""The session of a browser: signing in and out, changing the password."""

from typing import Annotated

from fastapi import APIRouter, HTTPException, Request, Response
from pydantic import BaseModel, Field

from idle_shimmer.api.server.error_answers import Problems
from idle_shimmer.api.server.sign_in import COOKIE, Gate, cookie_of
from idle_shimmer.store.accounts import accounts, sign_in_failures
from idle_shimmer.store.accounts.accounts import (
    MAX_PASSWORD,
    SIGNED_IN_FOR,
    Identity,
)
from idle_shimmer.store.database import session_scope

router = APIRouter(prefix="/api/session", tags=["session"])

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


@router.get("")
def get_session(request: Request) -> SessionOut:
    """Return whether one has to sign in, and as whom this browser is."""
    identity = _identity(request)
    gate: Gate = request.app.state.gate
    return SessionOut(required=gate.is_required(), name=identity.name if identity else None)


@router.post("", responses={429: {"model": Problems}})
def sign_in(request: Request, wanted: SignIn, response: Response) -> SessionOut:
    """Sign in; the answer sets a cookie. Too many failures have to wait a few minutes."""
    address = request.client.host if request.client else ""
    keys = f"address {address}", f"name {accounts.folded(wanted.name)}"
    with session_scope() as session:
        attempt = sign_in_failures.begin(session, keys)
    if attempt is None:
        wait_s = round(sign_in_failures.WITHIN.total_seconds())
        raise HTTPException(
            429,
            f"too many failed attempts: wait {wait_s // 60} minutes, then try again",
            {"Retry-After": str(wait_s)},
        )
    with session_scope() as session:
        token = accounts.sign_in(session, wanted.name, wanted.password)
        identity = accounts.identity_of(session, token)
        sign_in_failures.take_back(session, attempt)
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
