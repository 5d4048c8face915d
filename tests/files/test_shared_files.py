"""Stores that several machines share: a folder, and S3 as moto's server speaks it (https://docs.getmoto.org)."""

import hashlib
import os
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import fsspec
import pytest

from idle_shimmer.files.shared_files import SharedFiles
from idle_shimmer.files.store_mark import StoreFault
from idle_shimmer.limits import limits
from tests.support.shared_store import shared_store

CONTENT = b"lanterns on the water " * 200_000
DIGEST = hashlib.sha256(CONTENT).hexdigest()
MEDIA = f"media/{DIGEST[:2]}/{DIGEST}.mp4"
RENDER = "renders/film-1.mp4"


@pytest.fixture(params=["file", "s3"])
def url(request: pytest.FixtureRequest, tmp_path: Path) -> Iterator[str]:
    with shared_store(request.param, tmp_path) as found:
        yield found


@pytest.fixture
def machines(url: str, tmp_path: Path) -> list[SharedFiles]:
    """Two machines on one store."""
    return [SharedFiles(url, tmp_path / name) for name in ("quay", "pier")]


def written(folder: Path, name: str, content: bytes = CONTENT) -> Path:
    file = folder / name
    file.parent.mkdir(parents=True, exist_ok=True)
    file.write_bytes(content)
    return file


def opened(url: str) -> tuple[Any, str]:
    """A file system of its own, and the path of the store in it."""
    scheme, _, root = url.partition("://")
    return fsspec.filesystem(scheme, skip_instance_cache=True), root


def names(url: str) -> set[str]:
    """What lies in the store, by a reader of its own."""
    files, root = opened(url)
    return {each.removeprefix(root).lstrip("/") for each in files.find(root)}


@pytest.mark.parametrize("name", [MEDIA, RENDER])
def test_what_one_machine_keeps_another_one_brings(
    name: str, url: str, machines: list[SharedFiles], tmp_path: Path
) -> None:
    quay, pier = machines
    there = tmp_path / "pier" / name
    assert not pier.has(there)
    pier.bring(there)
    assert not there.exists()
    quay.keep(written(tmp_path / "quay", name))
    assert pier.has(there)
    pier.bring(there)
    assert there.read_bytes() == CONTENT
    (kept,) = pier.listed(tmp_path / "pier" / name.partition("/")[0])
    assert (kept.path, kept.size) == (there, len(CONTENT))
    assert abs(kept.modified_s - time.time()) < 60
    # Nothing but the file and its digest, in the form that sha256sum reads.
    beside = set() if name == MEDIA else {f"{name}.sha256"}
    assert names(url) == {name} | beside
    assert pier.delete(there) == len(CONTENT)
    assert names(url) == set()
    assert not there.exists()


def test_a_damaged_file_is_refused_on_arrival(
    url: str, machines: list[SharedFiles], tmp_path: Path
) -> None:
    quay, pier = machines
    files, root = opened(url)
    for name in (MEDIA, RENDER):
        quay.keep(written(tmp_path / "quay", name))
        files.pipe_file(f"{root}/{name}", CONTENT[:-1] + b"!")
        with pytest.raises(StoreFault, match="does not match its SHA-256"):
            pier.bring(tmp_path / "pier" / name)
    assert [each for each in (tmp_path / "pier").rglob("*") if each.is_file()] == []


def test_a_file_that_is_not_written_to_its_end_is_not_there(
    url: str, machines: list[SharedFiles], tmp_path: Path
) -> None:
    """The worker was stopped, or lost its claim, on the way."""
    quay, pier = machines

    def stop() -> None:
        raise KeyboardInterrupt

    with pytest.raises(KeyboardInterrupt):
        quay.keep(written(tmp_path / "quay", RENDER), stop)
    assert names(url) == set()
    assert not pier.has(tmp_path / "pier" / RENDER)


def test_copies_stay_within_the_bound(
    machines: list[SharedFiles], tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Those that were not used for longest go; what only this machine has stays."""
    quay, pier = machines
    monkeypatch.setattr(limits(), "cache_bytes", 2 * len(CONTENT) + 100)
    kept = [written(tmp_path / "quay", f"renders/{n}-1.mp4") for n in range(4)]
    for file in kept:
        quay.keep(file)
    copies = [tmp_path / "pier" / f"renders/{n}-1.mp4" for n in range(4)]
    for file in copies[:3]:
        pier.bring(file)
    # All of them were used just now.
    assert [file.exists() for file in copies[:3]] == [True] * 3
    own = written(tmp_path / "pier", "renders/own-1.mp4", b"mine")
    for file, age_s in zip(
        (own, copies[1], copies[0], copies[2]), (9e6, 8e5, 7e4, 6e3), strict=True
    ):
        os.utime(file, (time.time() - age_s,) * 2)
    pier.bring(copies[3])
    assert [file.exists() for file in copies] == [False, False, True, True]
    assert own.exists()


def test_what_no_row_knows_is_set_aside_and_deleted_later(
    url: str, machines: list[SharedFiles], tmp_path: Path
) -> None:
    quay = machines[0]
    file = written(tmp_path / "quay", RENDER)
    quay.keep(file)
    quay.set_aside(file)
    assert names(url) == {"set-aside/film-1.mp4"}
    quay.delete_set_aside(time.time() - 3600)
    assert names(url) == {"set-aside/film-1.mp4"}
    quay.delete_set_aside(time.time() + 3600)
    assert names(url) == set()


def test_a_store_that_cannot_be_used_is_told(
    machines: list[SharedFiles], tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    assert machines[0].examined()
    for wrong in ("ftp://somewhere/x", "file://relative", "nonsense"):
        with pytest.raises(StoreFault, match="is no store"):
            SharedFiles(wrong, tmp_path)
    (tmp_path / "plain").write_text("a file")
    nowhere = SharedFiles(f"file://{tmp_path}/plain", tmp_path / "quay")
    with pytest.raises(StoreFault, match="IDLE_SHIMMER_STORE"):
        nowhere.examined()
    with pytest.raises(StoreFault, match="could not be written"):
        nowhere.keep(written(tmp_path / "quay", RENDER))


def test_an_object_store_that_does_not_answer_is_told(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setenv("AWS_ENDPOINT_URL", "http://127.0.0.1:1")
    monkeypatch.setenv("AWS_ACCESS_KEY_ID", "lantern")
    monkeypatch.setenv("AWS_SECRET_ACCESS_KEY", "night")
    monkeypatch.setenv("AWS_MAX_ATTEMPTS", "1")
    silent = SharedFiles("s3://nowhere/films", tmp_path)
    with pytest.raises(StoreFault, match="IDLE_SHIMMER_STORE"):
        silent.has(tmp_path / RENDER)
