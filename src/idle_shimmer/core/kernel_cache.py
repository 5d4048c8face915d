"""When compiled kernels that are kept on disk are too old to be used.

Numba compares only the file that a kernel is written in. Ours are put together from helpers in other
files: after a change to one of them, its callers would go on with the old one, and nobody be told.
So all files are compared that a kernel's own one imports from this package, and those that these do.
"""

import hashlib
import re
from functools import cache
from pathlib import Path
from typing import Any

from numba.core import caching

_PACKAGE = Path(__file__).parents[1]
_IMPORT = re.compile(rb"^from (" + _PACKAGE.name.encode() + rb"(?:\.\w+)+) import", re.MULTILINE)


@cache
def _read(path: Path) -> tuple[bytes, frozenset[Path]]:
    """(hash of a file, the files of this package that it imports)."""
    text = path.read_bytes()
    modules = {
        _PACKAGE.parent.joinpath(*each.decode().split(".")) for each in _IMPORT.findall(text)
    }
    files = {each.with_suffix(".py") for each in modules} | {
        each / "__init__.py" for each in modules
    }
    return hashlib.sha256(text).digest(), frozenset(each for each in files if each.exists())


def files_behind(path: Path) -> set[Path]:
    """``path`` and all files of this package that it imports, directly or not."""
    known: set[Path] = set()
    open_ends = {path}
    while open_ends:
        known |= open_ends
        open_ends = {each for one in open_ends for each in _read(one)[1]} - known
    return known


@cache
def _stamp(path: Path) -> str:
    whole = hashlib.sha256()
    for each in sorted(files_behind(path)):
        whole.update(_read(each)[0])
    return whole.hexdigest()


class _Whole:
    """Makes a locator of Numba compare all files behind a kernel."""

    _py_file: str

    def get_source_stamp(self) -> str:
        return _stamp(Path(self._py_file).resolve())


class Provided(_Whole, caching.UserProvidedCacheLocator):  # type: ignore[misc]
    """In the folder that NUMBA_CACHE_DIR names."""


class BesideSource(_Whole, caching.InTreeCacheLocator):  # type: ignore[misc]
    """Beside the sources, where these may be written to."""


class OfUser(_Whole, caching.UserWideCacheLocator):  # type: ignore[misc]
    """In the user's cache folder."""


def use(config: Any) -> None:
    """Have Numba's ``config`` use these places, in this order."""
    places = (Provided, BesideSource, OfUser)
    config.CACHE_LOCATOR_CLASSES = ",".join(f"{__name__}.{each.__name__}" for each in places)
