"""Attempts to sign in that have failed, counted for every server process together.

An attempt counts as failed from its beginning, and is taken back when it succeeds: however many are made
at once, no more than ``MOST`` passwords are compared.
"""

from datetime import timedelta

from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session

from idle_shimmer.store.tables import SignInFailure

WITHIN = timedelta(minutes=5)
MOST = 10


def begin(session: Session, keys: tuple[str, ...]) -> list[int] | None:
    """Count an attempt for ``keys``, an address and a name; return its rows, for ``take_back``.

    None where one of them has failed too often within five minutes.
    """
    # One attempt for an address or a name after another, in one order.
    for key in sorted(keys):
        session.execute(select(func.pg_advisory_xact_lock(func.hashtextextended(key, 0))))
    session.execute(delete(SignInFailure).where(SignInFailure.at < func.now() - WITHIN))
    counts = select(func.count()).where(SignInFailure.key.in_(keys)).group_by(SignInFailure.key)
    if any(each >= MOST for each in session.scalars(counts)):
        return None
    rows = [SignInFailure(key=key) for key in keys]
    session.add_all(rows)
    session.flush()
    return [row.id for row in rows]


def take_back(session: Session, rows: list[int]) -> None:
    """Forget an attempt: it succeeded."""
    session.execute(delete(SignInFailure).where(SignInFailure.id.in_(rows)))
