"""The mark of this installation, which its store of files carries."""

from collections.abc import Callable

from sqlalchemy import func, select

from idle_shimmer.files.file_store import known_by
from idle_shimmer.store.database import session_scope
from idle_shimmer.store.tables import Clip, Installation

# The lock under which the first mark is made.
_MARKING = 20_224


class _StoredMark:
    """The mark as the database knows it."""

    def known(self, make: Callable[[], str]) -> str:
        """Return the mark; where there is none yet, it is what ``make`` returns, which one process calls."""
        with session_scope() as session:
            session.execute(select(func.pg_advisory_xact_lock(_MARKING)))
            known = session.scalar(select(Installation.store_mark))
            if known is None:
                known = make()
                session.add(Installation(store_mark=known))
            return known

    def has_clips(self) -> bool:
        """Whether clips were imported."""
        with session_scope() as session:
            return session.scalar(select(Clip.id).limit(1)) is not None


def guard_store() -> None:
    """Use a shared store only where it carries the mark of this installation."""
    known_by(_StoredMark())
