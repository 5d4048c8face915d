"""Failed attempts to sign in, counted for every server process together."""

from datetime import timedelta

from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session

from idle_shimmer.store.tables import SignInFailure

WITHIN = timedelta(minutes=5)
MOST = 10


def are_spent(session: Session, keys: tuple[str, ...]) -> bool:
    """Whether one of ``keys``, an address or a name, has failed too often within five minutes."""
    recent = SignInFailure.at > func.now() - WITHIN
    counts = select(func.count()).where(SignInFailure.key.in_(keys), recent)
    return any(each >= MOST for each in session.scalars(counts.group_by(SignInFailure.key)))


def count(session: Session, keys: tuple[str, ...]) -> None:
    """Count one more failure of each, and forget those that count no more."""
    session.execute(delete(SignInFailure).where(SignInFailure.at < func.now() - WITHIN))
    session.add_all(SignInFailure(key=key) for key in keys)
