"""Accounts: adding, listing, removing, signing in and out.

Passwords are hashed with Argon2id at the parameters of RFC 9106, section 4 (second recommended option).
A cookie carries a random token, of which only the hash is stored.
"""

import hashlib
import re
import secrets
import uuid
from dataclasses import dataclass
from datetime import datetime, timedelta
from functools import lru_cache
from threading import BoundedSemaphore

import argon2
from sqlalchemy import delete, exists, func, select
from sqlalchemy.orm import Session

from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.store.errors import NotFound
from idle_shimmer.store.tables import Account, SignedIn

SIGNED_IN_FOR = timedelta(days=30)
MIN_PASSWORD, MAX_PASSWORD = 10, 200
MAX_ACCOUNT_NAME = 60
_NAME = re.compile(r"[^\W_][\w .@-]*")
_TOKEN_BYTES = 32
# Each takes 64 MB: so many passwords are compared at once in a process, the others wait.
_hashing = BoundedSemaphore(4)


class WrongPassword(InvalidValue):
    """The name or the password is wrong: try again."""


@dataclass(frozen=True)
class Identity:
    """Whose cookie it is."""

    account_id: uuid.UUID
    name: str
    expires_at: datetime


def accounts_exist(session: Session) -> bool:
    """Whether anybody has to sign in."""
    return bool(session.scalar(select(exists().where(Account.id.is_not(None)))))


def all_accounts(session: Session) -> list[Account]:
    """Return every account, by name."""
    return list(session.scalars(select(Account).order_by(func.lower(Account.name))))


def add_account(session: Session, name: str, password: str) -> Account:
    """Create an account. Raises InvalidValue where the name is taken, or either does not fit."""
    name = " ".join(name.split())
    if not _NAME.fullmatch(name) or len(name) > MAX_ACCOUNT_NAME:
        raise InvalidValue(
            f"{name!r} is not a name: use up to {MAX_ACCOUNT_NAME} letters, digits, spaces and . @ -",
            field="name",
        )
    if _by_name(session, name) is not None:
        raise InvalidValue(f"there is an account {name} already: choose another name", field="name")
    account = Account(name=name, password_hash=_hashed(password))
    session.add(account)
    session.flush()
    return account


def remove_account(session: Session, name: str) -> None:
    """Delete an account, which signs it out everywhere; what it made stays. Raises NotFound."""
    account = _by_name(session, name)
    if account is None:
        raise NotFound(f"there is no account {name}: list them first", field="name")
    session.delete(account)


def sign_in(session: Session, name: str, password: str) -> str:
    """Return a new token for the cookie. Raises WrongPassword."""
    account = _by_name(session, name)
    # A name that does not exist takes as long.
    _require_password(account.password_hash if account else _no_hash(), password)
    if account is None:
        raise _wrong()
    if _hasher().check_needs_rehash(account.password_hash):
        account.password_hash = _hashed(password)
    session.execute(delete(SignedIn).where(SignedIn.expires_at < func.now()))
    token = secrets.token_urlsafe(_TOKEN_BYTES)
    until = func.now() + SIGNED_IN_FOR
    session.add(SignedIn(token_hash=_token_hash(token), account_id=account.id, expires_at=until))
    session.flush()
    return token


def sign_out(session: Session, token: str) -> None:
    """End what a token was for."""
    session.execute(delete(SignedIn).where(SignedIn.token_hash == _token_hash(token)))


def identity_of(session: Session, token: str) -> Identity | None:
    """Return whose token it is; None where it is no longer valid."""
    wanted = (
        select(Account.id, Account.name, SignedIn.expires_at)
        .join(SignedIn, SignedIn.account_id == Account.id)
        .where(SignedIn.token_hash == _token_hash(token), SignedIn.expires_at > func.now())
    )
    row = session.execute(wanted).first()
    return None if row is None else Identity(*row)


def change_password(session: Session, account_id: uuid.UUID, current: str, new: str) -> None:
    """Change a password; every browser is signed out. Raises WrongPassword, InvalidValue."""
    account = session.get(Account, account_id)
    if account is None:
        raise NotFound("there is no such account: it may have been removed", field="name")
    try:
        _require_password(account.password_hash, current)
    except WrongPassword:
        raise WrongPassword("the password is wrong: try again") from None
    account.password_hash = _hashed(new)
    session.execute(delete(SignedIn).where(SignedIn.account_id == account_id))


def folded(name: str) -> str:
    """Return a name as it is looked up: without capitals and needless spaces."""
    return " ".join(name.split()).lower()


def _by_name(session: Session, name: str) -> Account | None:
    wanted = select(Account).where(func.lower(Account.name) == folded(name))
    return session.scalar(wanted)


def _hashed(password: str) -> str:
    if not MIN_PASSWORD <= len(password) <= MAX_PASSWORD:
        raise InvalidValue(
            f"a password has {MIN_PASSWORD} to {MAX_PASSWORD} characters: choose another one",
            field="password",
        )
    return _hasher().hash(password)


def _require_password(password_hash: str, password: str) -> None:
    try:
        with _hashing:
            _hasher().verify(password_hash, password)
    except (argon2.exceptions.VerifyMismatchError, argon2.exceptions.InvalidHashError):
        raise _wrong() from None


def _wrong() -> WrongPassword:
    return WrongPassword("the name or the password is wrong: try again")


@lru_cache(maxsize=1)
def _hasher() -> argon2.PasswordHasher:
    return argon2.PasswordHasher()


@lru_cache(maxsize=1)
def _no_hash() -> str:
    return _hasher().hash(secrets.token_urlsafe())


def _token_hash(token: str) -> str:
    return hashlib.sha256(token.encode("utf-8", "replace")).hexdigest()
