"""Files that another process deletes between being named and being looked at."""

import os
from collections.abc import Callable
from pathlib import Path

import pytest

from idle_shimmer.files import kept_files
from idle_shimmer.files.kept_files import FileStore
from idle_shimmer.files.own_files import OwnFiles
from idle_shimmer.files.shared_files import SharedFiles

STORES: dict[str, Callable[[Path], FileStore]] = {
    "own": OwnFiles,
    "shared": lambda data: SharedFiles(f"file://{data / 'store'}", data),
}


@pytest.mark.parametrize("kind", STORES)
def test_what_goes_while_a_folder_is_listed_is_left_out(
    kind: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    store = STORES[kind](tmp_path)
    store.become_own()
    for name in ("stays.mp4", "goes.mp4"):
        file = tmp_path / "renders" / name
        file.parent.mkdir(exist_ok=True)
        file.write_bytes(b"lanterns")
        store.keep(file)
    walk = os.walk

    def deleting(folder: Path) -> object:
        for place, folders, names in walk(folder):
            Path(place, "goes.mp4").unlink(missing_ok=True)
            yield place, folders, names

    monkeypatch.setattr(kept_files.os, "walk", deleting)
    listed = store.listed(tmp_path / "renders")
    assert [(each.path.name, each.size) for each in listed] == [("stays.mp4", 8)]
    assert store.delete(tmp_path / "renders" / "goes.mp4") == 0
    assert store.delete(tmp_path / "renders" / "stays.mp4") == 8
