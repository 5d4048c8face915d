"""Files in a store that several machines share, given by a URL: a shared folder or an object store.

The data folder of each machine is a cache of it, within a bound. A file's SHA-256 is its name (media) or
stands in a file beside it, ``NAME.sha256`` in the form of ``sha256sum``; every file is checked against it
when it arrives. Files are written under a temporary name and renamed.
"""

import hashlib
import time
import uuid
from collections import defaultdict
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from threading import Lock
from typing import Any

import structlog

from idle_shimmer.files.kept_files import KeptFile, files_below, no_report
from idle_shimmer.files.store_mark import MARK_FILE, Marks, StoreFault, StoreMark, StoreUnreachable
from idle_shimmer.limits import limits

_BLOCK_BYTES = 8 << 20
_DIGEST, _PART = ".sha256", ".part"
_ASIDE = "set-aside"
# Copies that were used within so many seconds stay, whatever the bound.
_IN_USE_S = 600
# A listing answers for so long; what it lacks is asked for by itself.
_LISTED_S = 60
_MARK_HOLDS_S = 30.0
# A writer that takes longer for one file is gone.
_LONGEST_WRITE_S = 24 * 3600
_log = structlog.get_logger(__name__)


class SharedFiles:
    """Keeps files at ``url``; ``data`` is this machine's data folder. Safe for several threads.

    ``marks`` knows the mark that the store carries; without, none is asked for.
    """

    def __init__(self, url: str, data: Path, marks: Marks | None = None) -> None:
        self._url, self._data = url.rstrip("/"), data
        self._files, self._root, self._faults = _opened(self._url)
        self._is_folder = self._url.startswith("file:")
        # A bucket does not become another one from one moment to the next.
        holds_s = 0.0 if self._is_folder else _MARK_HOLDS_S
        self._mark = StoreMark(marks, self, holds_s)
        # What the store was seen to have, and when each of its folders was listed.
        self._known: set[str] = set()
        self._listed_at: dict[str, float] = {}
        self._locks: defaultdict[Path, Lock] = defaultdict(Lock)

    def keep(self, file: Path, report: Callable[[], None] = no_report) -> None:
        """Copy a finished file into the store."""
        name = self._name(file)
        with self._asked(f"{name} could not be written"):
            if not self._files.exists(self._at(name)):
                self._write(file, name, report)
        self._known.add(name)
        self._trim()

    def bring(self, file: Path) -> None:
        """Copy a file out of the store, unless this machine has it. Raises StoreFault where it is damaged."""
        if not file.is_relative_to(self._data):
            return
        with self._locks[file]:
            if file.is_file():
                file.touch()
                return
            name = self._name(file)
            with self._asked(f"{name} could not be read"):
                if not self._files.exists(self._at(name)):
                    self._known.discard(name)
                    return
                self._read(name, file)
        self._known.add(name)
        self._trim()

    def has(self, file: Path) -> bool:
        """Whether the store has the file."""
        name = self._name(file)
        if name in self._known:
            return True
        folder = name.partition("/")[0]
        if time.monotonic() - self._listed_at.get(folder, -_LISTED_S) >= _LISTED_S:
            self.listed(self._data / folder)
        if name not in self._known:
            with self._asked(f"{name} could not be looked for"):
                if self._files.exists(self._at(name)):
                    self._known.add(name)
        return name in self._known

    def delete(self, file: Path) -> int:
        """Delete the file in the store and here; return its bytes."""
        name = self._name(file)
        size = 0
        self._known.discard(name)
        with self._asked(f"{name} could not be deleted"), suppress(FileNotFoundError):
            size = int(self._files.info(self._at(name))["size"])
            self._remove(self._at(name))
        file.unlink(missing_ok=True)
        return size

    def listed(self, folder: Path) -> list[KeptFile]:
        """Return the files that the store has below a folder."""
        name = self._name(folder)
        with self._asked(f"{name} could not be listed"), suppress(FileNotFoundError):
            kept = [
                KeptFile(self._data / self._name_of(str(each.path)), each.size, each.modified_s)
                for each in self._below(self._at(name))
                if not each.path.name.endswith((_DIGEST, _PART))
            ]
            self._listed_at[name] = time.monotonic()
            self._known -= {each for each in self._known if each.startswith(f"{name}/")}
            self._known |= {self._name(each.path) for each in kept}
            return kept
        return []

    def set_aside(self, file: Path) -> None:
        """Copy a file away, so that it counts as new there, and delete it."""
        place = self._at(self._name(file))
        with self._asked(f"{file.name} could not be set aside"):
            if self._files.exists(place):
                self._files.copy(place, self._at(f"{_ASIDE}/{file.name}"))
        self.delete(file)

    def delete_set_aside(self, before_s: float) -> None:
        """Delete what was set aside before a time, and what writers left that are gone."""
        for each in self.listed(self._data / _ASIDE):
            if each.modified_s < before_s:
                self.delete(each.path)
        with self._asked("it could not be listed"), suppress(FileNotFoundError):
            for each in self._below(self._root):
                age_s = time.time() - each.modified_s
                if each.path.name.endswith(_PART) and age_s > _LONGEST_WRITE_S:
                    self._remove(str(each.path))

    def require(self) -> None:
        """Raise StoreUnreachable where the store does not answer, or is not that of this installation."""
        with self._asked("it could not be read"):
            self.read_mark()

    def become_own(self) -> None:
        """Make the store that of this installation."""
        with suppress(*self._faults):
            self._files.makedirs(self._root, exist_ok=True)
        try:
            self._mark.give()
        except self._faults as error:
            raise StoreUnreachable(
                f"the store {self._url} cannot be written to: {error}"
            ) from error

    def examined(self) -> str:
        """Write, read and delete a small file; return the URL. Raises StoreFault."""
        place = self._at(f".{uuid.uuid4().hex}{_PART}")
        with self._asked("a small file could not be written, read and deleted"):
            self._files.pipe_file(place, _PART.encode())
            self._files.cat_file(place)
            self._files.rm(place)
        return self._url

    def _write(self, file: Path, name: str, report: Callable[[], None]) -> None:
        part = self._at(f"{Path(name).parent}/.{file.name}.{uuid.uuid4().hex}{_PART}")
        try:
            with file.open("rb") as source, self._files.open(part, "wb") as target:
                digest = _copied(source, target, report)
            if not _is_named_by_content(name):
                line = f"{digest}  {file.name}\n".encode()
                self._files.pipe_file(self._at(name) + _DIGEST, line)
            self._files.mv(part, self._at(name))
        except BaseException:
            with suppress(FileNotFoundError, *self._faults):
                self._files.rm(part)
            raise

    def _read(self, name: str, file: Path) -> None:
        file.parent.mkdir(parents=True, exist_ok=True)
        part = file.with_name(f".{file.name}.{uuid.uuid4().hex}{_PART}")
        try:
            with self._files.open(self._at(name), "rb") as source, part.open("wb") as target:
                digest = _copied(source, target, no_report)
            if digest != self._digest_of(name):
                raise StoreFault(
                    f"the store's file {name} is damaged: its content does not match its SHA-256."
                    " Restore it from a backup"
                )
            part.replace(file)
        finally:
            part.unlink(missing_ok=True)

    def _digest_of(self, name: str) -> str:
        if _is_named_by_content(name):
            return Path(name).stem
        return str(self._files.cat_file(self._at(name) + _DIGEST), "ascii").partition(" ")[0]

    def _remove(self, place: str) -> None:
        self._files.rm(place)
        with suppress(FileNotFoundError):
            self._files.rm(place + _DIGEST)

    def _trim(self) -> None:
        """Delete the copies on this machine that were not used for longest, beyond the bound."""
        held = [
            each
            for folder in ("media", "renders", "mattes", "proxies", "segments")
            for each in files_below(self._data / folder)
        ]
        size = sum(each.size for each in held)
        for each in sorted(held, key=lambda each: each.modified_s):
            if size <= limits().cache_bytes or time.time() - each.modified_s < _IN_USE_S:
                return
            if not self.has(each.path):
                continue
            each.path.unlink(missing_ok=True)
            size -= each.size
            _log.info("a copy was deleted: the store has the file", file=self._name(each.path))

    def _below(self, place: str) -> list[KeptFile]:
        """Return what lies below a place of the store, by its path there."""
        if self._is_folder:
            # A reader of URLs shows a folder as empty where one of its files goes while it is read.
            return files_below(Path(place))
        found = self._files.find(place, detail=True)
        return [
            KeptFile(Path(name), int(each["size"]), float(each["LastModified"].timestamp()))
            for name, each in found.items()
        ]

    def read_mark(self) -> str | None:
        """Return the mark of the store; None where it has none."""
        try:
            return str(self._files.cat_file(self._at(MARK_FILE)), "ascii")
        except FileNotFoundError:
            return None

    def write_mark(self, mark: str) -> None:
        """Mark the store."""
        self._files.pipe_file(self._at(MARK_FILE), mark.encode())

    def is_empty(self) -> bool:
        """Whether the store has no imported file."""
        return not self._below(self._at("media"))

    def _name(self, file: Path) -> str:
        return file.relative_to(self._data).as_posix()

    def _at(self, name: str) -> str:
        return f"{self._root}/{name}"

    def _name_of(self, place: str) -> str:
        return place.removeprefix(self._root).lstrip("/")

    @contextmanager
    def _asked(self, what: str) -> Iterator[None]:
        try:
            self._mark.require()
            yield
        except FileNotFoundError:
            raise
        except self._faults as error:
            _log.warning("the store of files failed", store=self._url, error=str(error))
            # Whoever reads this need not know where the store lies: the log and "doctor" say so.
            reason = getattr(error, "strerror", None) or type(error).__name__
            raise StoreUnreachable(
                f"the store of files: {what} ({reason}). Examine IDLE_SHIMMER_STORE, the store and its"
                " credentials, then try again"
            ) from error


def _opened(url: str) -> tuple[Any, str, tuple[type[Exception], ...]]:
    """Return the file system of a URL, the path in it, and the errors that it raises."""
    import fsspec

    scheme, _, path = url.partition("://")
    if scheme == "file" and path.startswith("/"):
        return fsspec.filesystem("file", auto_mkdir=True), path, (OSError,)
    if scheme == "s3" and path:
        try:
            from botocore.exceptions import BotoCoreError
        except ImportError as error:
            raise StoreFault(
                "stores at s3:// need further packages: install idle-shimmer[s3]",
                field="IDLE_SHIMMER_STORE",
            ) from error
        waits = {"connect_timeout": 5, "read_timeout": 60}
        files = fsspec.filesystem(
            "s3", use_listings_cache=False, skip_instance_cache=True, config_kwargs=waits
        )
        return files, path, (OSError, BotoCoreError)
    raise StoreFault(
        f"{url} is no store: use file:///folder or s3://bucket/path", field="IDLE_SHIMMER_STORE"
    )


def _copied(source: Any, target: Any, report: Callable[[], None]) -> str:
    """Copy a file; return its SHA-256."""
    digest = hashlib.sha256()
    while block := source.read(_BLOCK_BYTES):
        digest.update(block)
        target.write(block)
        report()
    return digest.hexdigest()


def _is_named_by_content(name: str) -> bool:
    return name.startswith("media/")
