"""What a decoder that a file has taken over could still do: nothing but answer."""

import json
import os
import struct
import subprocess
import sys
import zlib
from pathlib import Path

import pytest

from idle_shimmer.media.decode.answers import Form, checked_facts, checked_index
from idle_shimmer.media.decode.client import Decoder, probe_index
from idle_shimmer.media.decode.confinement import available
from idle_shimmer.media.decode.process import as_json, facts_of
from idle_shimmer.media.errors import MediaError
from idle_shimmer.media.read.index import FrameIndex, read_facts
from tests.conftest import ROOT
from tests.support.clips import numbered, write_clip

# Runs in a process that is confined to one file, and prints what it could do.
TRIES = """
import json, os, socket, subprocess, sys, threading
from pathlib import Path
from idle_shimmer.media.decode.confinement import available, confine
permitted, other, folder = sys.argv[1:]
available()
layers = confine([Path(permitted)], 4 << 30)
def works(what):
    try:
        what()
    except (OSError, MemoryError, ValueError, RuntimeError):
        return False
    return True
def thread():
    other = threading.Thread(target=lambda: None)
    other.start()
    other.join()
print(json.dumps({
    "read the file": works(lambda: open(permitted, "rb").read()),
    "read another file": works(lambda: open(other, "rb").read()),
    "read the server's environment": works(lambda: open(f"/proc/{os.getppid()}/environ", "rb").read()),
    "list a folder": works(lambda: os.listdir(folder)),
    "write a file": works(lambda: open(os.path.join(folder, "made"), "wb").write(b"x")),
    "change the file": works(lambda: open(permitted, "r+b").write(b"x")),
    "delete the file": works(lambda: os.unlink(permitted)),
    "open a connection": works(lambda: socket.create_connection(("127.0.0.1", 1), 1) and None),
    "make a socket": works(lambda: socket.socket()),
    "run a program": works(lambda: subprocess.run(["/bin/true"], check=True)),
    "fork": works(lambda: os.fork() or os._exit(0)),
    "kill the server": works(lambda: os.kill(os.getppid(), 0)),
    "take 5 GB": works(lambda: bytearray(5 << 30)),
    "start a thread": works(thread),
}))
"""
PERMITTED = {"read the file", "start a thread"}


def test_a_confined_process_reads_its_file_and_nothing_else(tmp_path: Path) -> None:
    layers = available()
    if not (layers.files and layers.system_calls):
        pytest.skip("this system has neither seccomp nor Landlock")
    permitted, other = tmp_path / "permitted.bin", tmp_path / "other.bin"
    permitted.write_bytes(b"p")
    other.write_bytes(b"o")
    done = subprocess.run(
        [sys.executable, "-c", TRIES, permitted, other, tmp_path],
        capture_output=True,
        check=True,
        cwd=ROOT,
    )
    assert {name for name, worked in json.loads(done.stdout).items() if worked} == PERMITTED
    assert permitted.read_bytes() == b"p"


def test_a_decoder_does_not_know_the_servers_environment(tmp_path: Path) -> None:
    assert os.environ["DATABASE_URL"]
    path = write_clip(tmp_path / "one.mp4", [numbered(n) for n in range(4)])
    with Decoder(path) as decoder:
        decoder.ask("facts", path=str(path))
        assert decoder._process is not None
        process = Path(f"/proc/{decoder._process.id}")
        environment = (process / "environ").read_bytes()
        opened = list((process / "fd").iterdir())
    assert b"DATABASE_URL" not in environment
    # Standard input, output, errors, and the socket.
    assert len(opened) == 4


@pytest.mark.parametrize(
    ("shape", "dtype"),
    [
        ([4, 6, 3], "O"),
        ([4, 6, 3], "float64"),
        ([6, 4, 3], "uint8"),
        ([4, 6, 3, 1 << 40], "uint8"),
        ([4, 6, -3], "uint8"),
        ([4, 6, 3.0], "uint8"),
        ("4 6 3", "uint8"),
        (None, None),
    ],
)
def test_an_array_of_another_form_is_refused(shape: object, dtype: object) -> None:
    form = Form("uint8", (4, 6, 3))
    assert form.checked([4, 6, 3], "uint8") == (4, 6, 3)
    with pytest.raises(ValueError, match="array"):
        form.checked(shape, dtype)
    with pytest.raises(ValueError, match="another shape"):
        Form("float32", (None, 2), 10).checked([11, 2], "float32")


def test_a_png_that_states_too_many_pixels_is_refused_by_its_header(tmp_path: Path) -> None:
    """Its data could be unpacked for a minute; here there is none (PNG, W3C, 5.2 and 11.2.2)."""
    header = b"IHDR" + struct.pack(">IIBBBBB", 26_000, 26_000, 8, 2, 0, 0, 0)
    chunk = struct.pack(">I", 13) + header + struct.pack(">I", zlib.crc32(header))
    path = tmp_path / "large.png"
    path.write_bytes(b"\x89PNG\r\n\x1a\n" + chunk)
    with pytest.raises(MediaError, match="sides have 16 to 16384 px"):
        probe_index(path)


@pytest.mark.parametrize(
    ("changed", "message"),
    [
        ({"width": 1_600_000}, "sides have 16 to 16384 px"),
        ({"height": 0}, "sides have 16 to 16384 px"),
        ({"width": "640"}, "contradict each other"),
        ({"width": 16384, "height": 16384}, "million pixels"),
        ({"frame_count": 999}, "contradict each other"),
        ({"rate": "1000000000"}, "at most 1000"),
        ({"rate": "0"}, "at most 1000"),
        ({"rate": "1/0"}, "contradict each other"),
        ({"duration": "1000000"}, "at most 24 hours"),
        ({"pixel_aspect": "-1"}, "contradict each other"),
        ({"has_sound": "yes"}, "contradict each other"),
        ({"notes": None}, "contradict each other"),
        ({"secret": 1}, "contradict each other"),
    ],
)
def test_facts_that_no_clip_has_are_refused(
    tmp_path: Path, changed: dict[str, object], message: str
) -> None:
    path = write_clip(tmp_path / "one.mp4", [numbered(n) for n in range(4)])
    facts, index = read_facts(path)
    stored = json.loads(as_json(facts.__dict__))
    assert checked_facts(stored, index, "one.mp4") == facts == facts_of(stored)
    with pytest.raises(MediaError, match=message):
        checked_facts({**stored, **changed}, index, "one.mp4")


@pytest.mark.parametrize(
    "changed",
    [
        {"pts": []},
        {"pts": [0, 2, 1]},
        {"pts": [0, 1, "2"]},
        {"pts": [0, 1, 1e300]},
        {"keyframes": [1]},
        {"keyframes": [0, 9]},
        {"time_base": "0"},
        {"time_base": "x"},
        {"last_duration": None},
    ],
)
def test_times_that_no_clip_has_are_refused(changed: dict[str, object]) -> None:
    stored = {"pts": [0, 1, 2], "keyframes": [0], "time_base": "1/25", "last_duration": 1}
    assert isinstance(checked_index(stored, "one.mp4"), FrameIndex)
    with pytest.raises(MediaError, match="times cannot be used"):
        checked_index({**stored, **changed}, "one.mp4")


@pytest.mark.parametrize(
    ("name", "content"),
    [
        (
            "list.m3u8",
            b"#EXTM3U\n#EXT-X-TARGETDURATION:9\n#EXTINF:9,\nfile://{other}\n#EXT-X-ENDLIST\n",
        ),
        ("list.mp4", b"#EXTM3U\n#EXT-X-TARGETDURATION:9\n#EXTINF:9,\n{other}\n#EXT-X-ENDLIST\n"),
        ("list.txt", b"ffconcat version 1.0\nfile {other}\n"),
        ("note.txt", b"A plain text about the harbour.\n" * 200),
        ("art.ans", b"\x1b[1;31mHarbour\x1b[0m\n" * 200),
        ("drawing.svg", b"<svg xmlns='http://www.w3.org/2000/svg' width='64' height='64'/>"),
        ("titles.srt", b"1\n00:00:01,000 --> 00:00:02,000\nHarbour\n\n" * 20),
        (
            "session.sdp",
            b"v=0\no=- 0 0 IN IP4 127.0.0.1\ns=x\nc=IN IP4 127.0.0.1\nm=video 5004 RTP/AVP 96\n",
        ),
    ],
)
def test_files_that_name_others_or_are_text_are_refused(
    tmp_path: Path, name: str, content: bytes
) -> None:
    """By the content, whatever the name; here as on the command line, which reads in its own process."""
    other = write_clip(tmp_path / "other.mp4", [numbered(n) for n in range(4)])
    path = tmp_path / name
    path.write_bytes(content.replace(b"{other}", str(other).encode()))
    with pytest.raises(MediaError, match="is not a video or picture that can be read"):
        read_facts(path)


def test_a_numbered_still_is_one_picture_and_reads_no_other(tmp_path: Path) -> None:
    import cv2

    for name in ("pic1.png", "pic2.png", "pic%01d.png", "pic*.jpg"):
        cv2.imwrite(str(tmp_path / name), numbered(int(name[3]) if name[3].isdigit() else 7))
    for name in ("pic1.png", "pic%01d.png", "pic*.jpg"):
        facts, _ = read_facts(tmp_path / name)
        assert (facts.still, facts.frame_count) == (True, 1)
