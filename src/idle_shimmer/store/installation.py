"""The mark of this installation, which its store of files carries."""

import uuid
from collections.abc import Callable

from sqlalchemy import func, select

from idle_shimmer.files.file_store import known_by
from idle_shimmer.store.database import session_scope
from idle_shimmer.store.tables import Installation

# The lock under which the first mark is made.
_MARKING = 20_224


class _StoredMark:
    """The mark as the database knows it."""

    def agreed(self, read: Callable[[], str | None], write: Callable[[str], None]) -> str:
        """Return the mark; where there is none yet, that of the store, which is given one where it has none."""
        with session_scope() as session:
            session.execute(select(func.pg_advisory_xact_lock(_MARKING)))
            known = session.scalar(select(Installation.store_mark))
            if known is not None:
                return known
            mark = read()
            if mark is None:
                # First there, then here: what is interrupted in between is taken up from there.
                mark = uuid.uuid4().hex
                write(mark)
            session.add(Installation(store_mark=mark))
            return mark


def guard_store() -> None:
    """Use a shared store only where it carries the mark of this installation."""
    known_by(_StoredMark())
