"""The tables of accounts: who may sign in, and who is signed in."""

import uuid
from datetime import datetime

from sqlalchemy import (
    BigInteger,
    ForeignKey,
    Identity,
    func,
)
from sqlalchemy.orm import Mapped, mapped_column

from idle_shimmer.store.tables.base import Base


class Account(Base):
    """Someone who may sign in. ``password_hash`` is Argon2id in its PHC text form."""

    __tablename__ = "account"

    id: Mapped[uuid.UUID] = mapped_column(primary_key=True, default=uuid.uuid4)
    name: Mapped[str] = mapped_column(unique=True)
    password_hash: Mapped[str]
    created_at: Mapped[datetime] = mapped_column(server_default=func.now())


class SignedIn(Base):
    """A browser that is signed in, by the SHA-256 of the token in its cookie."""

    __tablename__ = "signed_in"

    token_hash: Mapped[str] = mapped_column(primary_key=True)
    account_id: Mapped[uuid.UUID] = mapped_column(
        ForeignKey("account.id", ondelete="CASCADE"), index=True
    )
    created_at: Mapped[datetime] = mapped_column(server_default=func.now())
    expires_at: Mapped[datetime]


class SignInFailure(Base):
    """A failed attempt to sign in, by an address or under a name."""

    __tablename__ = "sign_in_failure"

    id: Mapped[int] = mapped_column(BigInteger, Identity(), primary_key=True)
    key: Mapped[str] = mapped_column(index=True)
    at: Mapped[datetime] = mapped_column(server_default=func.now())
