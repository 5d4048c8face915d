"""Files and names that come in: strange, too large, twice at once, lying about themselves."""

import struct
import zlib
from concurrent.futures import ThreadPoolExecutor
from fractions import Fraction
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient

from idle_shimmer.api import app as application
from idle_shimmer.files import space
from idle_shimmer.limits import limits
from idle_shimmer.settings import settings
from tests.api.conftest import BYTES
from tests.api.edits.test_resources import messages
from tests.support.clips import numbered, png, write_clip

LONG_NAMES = [
    "港" * 100 + ".mp4",
    "a." + "x" * 250,
    "Hafen " * 40 + ".mp4",
    "pic%03d*.mp4",
    "-r.mp4",
]


def imported(client: TestClient, name: str, content: bytes) -> Any:
    return client.post("/api/clips", params={"name": name}, content=content, headers=BYTES)


def leftovers() -> list[Path]:
    return list(settings().media.glob("upload-*"))


@pytest.mark.parametrize("name", LONG_NAMES)
def test_a_clip_keeps_the_name_of_its_file_however_long(
    client: TestClient, tmp_path: Path, name: str
) -> None:
    number = LONG_NAMES.index(name)
    content = write_clip(tmp_path / "a.mp4", [numbered(100 + number)] * 3).read_bytes()
    answer = imported(client, name, content)
    assert answer.status_code == 201
    assert answer.json()["name"] == Path(name).stem[:200]
    junk = imported(client, name, b"junk" * 99)
    assert junk.status_code == 422
    assert "is not a video or picture" in messages(junk)[0][1]
    assert not leftovers()


@pytest.mark.parametrize("name", ["..", "a\nb.mp4", "\x1b[31m.mp4", "/", "x" * 256, ""])
def test_what_is_no_file_name_is_refused(client: TestClient, name: str) -> None:
    answer = imported(client, name, b"junk")
    assert answer.status_code == 422
    assert messages(answer)[0][0] == "name"


def test_the_same_file_twice_at_once_is_one_clip(client: TestClient, tmp_path: Path) -> None:
    content = write_clip(tmp_path / "a.mp4", [numbered(n + 77) for n in range(8)]).read_bytes()
    with ThreadPoolExecutor(4) as threads:
        asked = [threads.submit(imported, client, f"{n}.mp4", content) for n in range(4)]
    answers = [each.result() for each in asked]
    assert [each.status_code for each in answers] == [201] * 4
    assert len({each.json()["id"] for each in answers}) == 1
    assert not leftovers()


def header(width: int, height: int, length: int = 13) -> bytes:
    """A PNG whose header is as given, and whose pixels are missing."""
    fields = struct.pack(">IIBBBBB", width, height, 8, 2, 0, 0, 0)[:length]
    chunks = b""
    for kind, body in ((b"IHDR", fields), (b"IDAT", b""), (b"IEND", b"")):
        check = zlib.crc32(kind + body)
        chunks += struct.pack(">I", len(body)) + kind + body + struct.pack(">I", check)
    return b"\x89PNG\r\n\x1a\n" + chunks


@pytest.mark.parametrize(
    "picture",
    [
        header(64, 64, length=3),
        header(2**31 - 1, 2**31 - 1),
        header(1_600_000, 16),
        header(0, 64),
        header(64, 64),
        png(numbered(1))[:60],
        b"\x89PNG\r\n\x1a\n" + struct.pack(">I4s", 2**31, b"IHDR"),
        b"\x89PNG\r\n\x1a\n",
        b"",
    ],
    ids=[
        "3-byte-header",
        "2^31-1",
        "too-wide",
        "no-width",
        "no-pixels",
        "cut",
        "huge-chunk",
        "signature",
        "nothing",
    ],
)
def test_pictures_whose_header_lies_are_refused(client: TestClient, picture: bytes) -> None:
    asked = {"name": "lanterns", "rate": "25"}
    answer = client.post("/api/clips/sequence", params=asked, content=picture, headers=BYTES)
    assert answer.status_code == 422
    assert messages(answer)[0][1]
    assert imported(client, "still.png", picture).status_code == 422
    assert not leftovers()


@pytest.mark.parametrize("rate", ["0", "1000000000", "-1", "nan", "1/0", "9" * 400])
def test_a_rate_that_no_clip_has_is_refused(client: TestClient, rate: str) -> None:
    asked = {"name": "lanterns", "rate": rate}
    answer = client.post(
        "/api/clips/sequence", params=asked, content=png(numbered(1)), headers=BYTES
    )
    assert (answer.status_code, messages(answer)[0][0]) == (422, "rate")


@pytest.mark.parametrize("side", [0, -1, 15, 16385, 2**40])
def test_an_edit_of_an_impossible_size_is_refused(
    client: TestClient, clip_ids: list[str], side: int
) -> None:
    for size in ({"width": side, "height": 360}, {"width": 640, "height": side}):
        answer = client.post("/api/edits", json={"name": "x", "clips": clip_ids, "size": size})
        assert answer.status_code == 422


def test_addresses_with_zero_bytes_or_without_end_are_refused(client: TestClient) -> None:
    for path, status in (
        ("/api/edits/%00", 400),
        ("/a%00b", 400),
        ("/" + "a" * 5000, 414),
        ("/api/edits?name=" + "a" * 5000, 414),
        ("/" + "a" * 3000, 404),
        ("/api/edits/" + "%F0%9F" * 20, 422),
    ):
        answer = client.get(path)
        assert answer.status_code == status, path[:40]
        assert messages(answer)[0][1]


def test_a_page_name_that_no_file_system_takes_is_the_page(tmp_path: Path) -> None:
    (tmp_path / "index.html").write_text("<html>")
    for path in ("a" * 3000, "..", "../secret", "a/../../b", "\ud800"):
        assert application._file_below(tmp_path, path) is None
    assert application._file_below(tmp_path, "index.html") == tmp_path / "index.html"


@pytest.mark.parametrize("announced", [True, False])
def test_bodies_beyond_their_limit_are_refused(
    client: TestClient, monkeypatch: pytest.MonkeyPatch, announced: bool
) -> None:
    monkeypatch.setattr(limits(), "max_body_bytes", 1000)
    monkeypatch.setattr(limits(), "max_upload_bytes", 1000)
    body = b'{"name": "' + b"x" * 2000 + b'"}'
    for path, kind in (("/api/edits", "application/json"), ("/api/clips?name=a.mp4", None)):
        content = body if announced else iter([body[:900], body[900:]])
        headers = {"Content-Type": kind} if kind else BYTES
        answer = client.post(path, content=content, headers=headers)
        assert answer.status_code == 413
        assert "at most 1 kB" in messages(answer)[0][1]
    assert not leftovers()


def test_a_file_that_does_not_fit_on_the_disk_is_refused_before_it_is_read(
    client: TestClient, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(space, "free_bytes", lambda: 201 << 20)
    answer = imported(client, "film.mp4", b"x" * (2 << 20))
    assert answer.status_code == 507
    assert "211 MB are free. film.mp4 needs 2.1 MB" in messages(answer)[0][1]


def test_a_video_of_varying_rate_is_cut_where_its_pictures_change(
    client: TestClient, tmp_path: Path
) -> None:
    """Pictures are numbered in the file, frames at the edit's rate: they are not the same."""
    times = [n * 2 if n < 20 else 40 + (n - 20) for n in range(40)]
    path = write_clip(
        tmp_path / "varying.mkv",
        [numbered(n + 300) for n in range(40)],
        times=times,
        time_base=Fraction(1, 50),
        rate=Fraction(50),
    )
    clip = imported(client, path.name, path.read_bytes()).json()
    made = client.post(f"/api/clips/{clip['id']}/edit", json={"name": "V", "frames": [10, 30]})
    assert made.status_code == 201
    rate = Fraction(made.json()["rate"])
    for placed, picture in zip(made.json()["placed"][1:], (10, 30), strict=True):
        middle = (placed["in_frame"] + 0.5) / float(rate)
        before = (placed["in_frame"] - 0.5) / float(rate)
        assert before < times[picture] / 50 <= middle
    wrong = client.post(f"/api/clips/{clip['id']}/edit", json={"name": "V", "frames": [40]})
    assert "has pictures 0 to 39" in messages(wrong)[0][1]


def test_an_edit_has_at_most_a_thousand_clips(client: TestClient, clip_ids: list[str]) -> None:
    full = {"name": "Full", "clips": clip_ids[:1] * 1000}
    assert client.post("/api/edits", json={**full, "clips": clip_ids[:1] * 1001}).status_code == 422
    edit = client.post("/api/edits", json=full).json()
    path = f"/api/edits/{edit['id']}"
    added = client.post(f"{path}/clips", json={"clip": clip_ids[0]})
    split = client.post(f"{path}/placed/{edit['placed'][0]['id']}/split", json={"at_frame": 20})
    for answer in (added, split):
        assert answer.status_code == 422
        assert "an edit has at most 1000" in messages(answer)[0][1]
    assert len(client.get(path).json()["placed"]) == 1000
