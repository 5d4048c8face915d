"""Where compiled kernels are kept on disk, so that they are compiled once.

Numba notices a change to the file that a kernel is written in, but not to the helpers from other
files that were compiled into it. The folder is therefore named after a hash of all sources that
kernels are made of: after any change to one of them, everything is compiled anew.
"""

import fcntl
import hashlib
import os
import shutil
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import Any

_CORE = Path(__file__).parents[1]
# Kernels lie in these packages, and in other files of the core that import the compiler.
_PACKAGES = ("compute", "geometry", "kernels", "picture")
_IMPORTS_COMPILER = b"core.compute.jit import"
_KEPT_FOLDERS = 4
_HASH_DIGITS = 16


def cache_folder(mode: str) -> Path:
    """Return the folder for kernels of the current sources, compiled in ``mode``.

    It lies below ``NUMBA_CACHE_DIR`` where that is set, otherwise below the user's cache folder.
    """
    base = os.environ.get("NUMBA_CACHE_DIR")
    parent = Path(base) if base else _user_cache() / "idle-shimmer" / "kernels"
    return parent / f"{mode}-{_sources_hash()}"


def prepare(mode: str) -> str:
    """Create the folder of ``mode``, delete the oldest ones, and return its path.

    Where the user's cache folder cannot be written to, the system's temporary folder is used.
    """
    folder = cache_folder(mode)
    try:
        folder.mkdir(parents=True, exist_ok=True)
        os.utime(folder)
    except OSError:
        folder = Path(tempfile.mkdtemp(prefix="idle-shimmer-kernels-"))
    # Not those of modes whose names only begin alike.
    of_mode = folder.parent.glob(f"{mode}-{'[0-9a-f]' * _HASH_DIGITS}")
    older = sorted(of_mode, key=_changed_at, reverse=True)
    for outdated in older[_KEPT_FOLDERS:]:
        shutil.rmtree(outdated, ignore_errors=True)
    return str(folder)


@contextmanager
def alone(what: str) -> Iterator[None]:
    """Let one process of this user after another do ``what``: a name for a file."""
    with Path(tempfile.gettempdir(), f"idle-shimmer-{os.getuid()}-{what}.lock").open("ab") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        yield


def one_writer_at_a_time() -> None:
    """Let processes that share a cache write to it one after another.

    Numba reads the index of a function, chooses the next free file name, and writes both: two processes
    that compile different signatures at once choose the same name, and one later runs the other's code.
    """
    from numba.core.caching import IndexDataCacheFile

    save = IndexDataCacheFile.save
    if hasattr(save, "one_at_a_time"):
        return

    def locked(self: Any, key: Any, data: Any) -> None:
        with Path(self._cache_path, ".lock").open("ab") as lock:
            fcntl.flock(lock, fcntl.LOCK_EX)
            save(self, key, data)

    locked.one_at_a_time = True  # type: ignore[attr-defined]
    IndexDataCacheFile.save = locked


def _changed_at(folder: Path) -> float:
    # Another process may be deleting it.
    with suppress(OSError):
        return folder.stat().st_mtime
    return 0.0


def _user_cache() -> Path:
    return Path(os.environ.get("XDG_CACHE_HOME") or Path.home() / ".cache")


def _sources_hash() -> str:
    digest = hashlib.sha256()
    for path in sorted(_CORE.rglob("*.py")):
        text, place = path.read_bytes(), path.relative_to(_CORE)
        if place.parts[0] in _PACKAGES or _IMPORTS_COMPILER in text:
            digest.update(str(place).encode() + text)
    return digest.hexdigest()[:_HASH_DIGITS]
