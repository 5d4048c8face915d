"""Files that appear when they are complete, or not at all."""

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path


@contextmanager
def complete_file(path: Path) -> Iterator[Path]:
    """Give the path of a file to write; at the end it becomes ``path``, on an error it is deleted."""
    unfinished = path.with_name(f".{path.stem}.unfinished{path.suffix}")
    try:
        yield unfinished
        unfinished.replace(path)
    finally:
        unfinished.unlink(missing_ok=True)
