"""The store of this process: the data folder, or a store that several machines share."""

from functools import lru_cache

from idle_shimmer.files.kept_files import FileStore
from idle_shimmer.files.own_files import OwnFiles
from idle_shimmer.files.store_mark import Marks
from idle_shimmer.media import local_copies
from idle_shimmer.settings import settings

_marks: Marks | None = None


def known_by(marks: Marks) -> None:
    """From now on require of a shared store that it carries the mark of this installation."""
    global _marks
    _marks = marks


@lru_cache(maxsize=1)
def file_store() -> FileStore:
    """Return the store of this process. Raises StoreFault where its URL is wrong."""
    data = settings().idle_shimmer_data.resolve()
    if settings().idle_shimmer_store:
        # Most installations keep their files themselves: they need not load what reads URLs.
        from idle_shimmer.files.shared_files import SharedFiles

        return SharedFiles(settings().idle_shimmer_store, data, _marks)
    return OwnFiles(data)


# Whoever opens a file of a path that was given here gets it from the store.
local_copies.brought_by(lambda file: file_store().bring(file))
