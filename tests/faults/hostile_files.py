"""Files of every accepted format, damaged by hypothesis: bits, lengths, numbers, parts, nesting."""

import json
import struct
from collections.abc import Callable
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import cv2
import opentimelineio as otio
from hypothesis import strategies as st

from idle_shimmer.core.recipe import Recipe
from idle_shimmer.interchange.decision_lists import edl_text
from idle_shimmer.interchange.timelines import EditDocument, TimelineClip, TimelineCut, otio_text
from tests.support.clips import numbered, write_clip

VIDEOS: dict[str, dict[str, Any]] = {
    "mp4": {"tone": True},
    "mov": {"codec": "prores_ks", "pixels": "yuv422p10le", "options": {}},
    "mkv": {"codec": "ffv1", "pixels": "bgr0", "options": {}},
    "webm": {"codec": "libvpx-vp9", "options": {"crf": "30", "b": "0", "deadline": "realtime"}},
    "avi": {"codec": "mpeg4", "options": {"b": "400000"}},
    "ts": {"tone": True},
    "mpg": {"codec": "mpeg2video", "options": {"b": "400000"}},
    "mxf": {"codec": "mpeg2video", "options": {"b": "400000"}},
    "gif": {"codec": "gif", "pixels": "rgb8", "options": {}},
    "h264": {},
}
STILLS = ("png", "jpg", "webp", "bmp", "tiff")
TEXTS = ("otio", "edl", "recipe")
# Envelopes, an easing of every form, a mix with a matte, a region and an accent.
RECIPE = {
    "format": 2,
    "name": "Lantern roll",
    "window": {"before": 5, "after": 5, "rate": "30"},
    "mix": {"kind": "wipe", "matte": {"clouds": {"seed": 3}}, "softness": 0.2},
    "shutter": 180,
    "filters": [
        {
            "id": "roll",
            "kind": "roll",
            "edge": "tile",
            "y": {"kind": "travel", "amount": -4, "easing": {"steepness": 0.8}},
        },
        {
            "id": "blur",
            "kind": "directional_blur",
            "length": {"kind": "follow", "filter": "roll", "shutter": 180},
            "angle": 90,
        },
        {
            "kind": "gaussian_blur",
            "radius": {
                "kind": "keyframes",
                "keyframes": [
                    {"at": -1, "value": 0, "easing": "cubic-bezier(0.3, 0, 0.7, 1)"},
                    {"at": 0, "value": 0.02, "easing": "steps(3, end)"},
                    {"at": 1, "value": 0},
                ],
            },
        },
    ],
    "accent": {"sound": "whoosh", "gain_db": -19, "follow": "roll"},
}
_INTERESTING = (0, 1, 0x7F, 0x80, 0xFF, 0x7FFFFFFF, 0x80000000, 0xFFFFFFFF)
_TEXTS = (
    *("NaN", "-1", "1e999", "Infinity", '"\\u0000"', "null", "{}", "[]", "99999999999999999999"),
    *("[" * 3000, '{"a":' * 3000, '"' + "港" * 5000 + '"', "-9223372036854775808"),
)


@dataclass(frozen=True)
class HostileFile:
    """A damaged file; ``kind`` is the format that it was made from."""

    kind: str
    name: str
    content: bytes


def sound_files(folder: Path) -> dict[str, bytes]:
    """Return a sound file of every accepted format, small."""
    pictures = [numbered(n) for n in range(12)]
    found = {
        ending: write_clip(folder / f"a.{ending}", pictures, **how).read_bytes()
        for ending, how in VIDEOS.items()
    }
    for ending in STILLS:
        found[ending] = _still(folder / f"still.{ending}", ending)
    found["png sequence"] = found["png"] * 4
    shots = [TimelineClip("one.mp4", 12, 48), TimelineClip("two.mp4", 12, 48)]
    document = EditDocument(
        "Evening", Fraction(25), (192, 96), shots, [TimelineCut(4, 6, Recipe())]
    )
    found["otio"] = otio_text(document).encode()
    found["edl"] = edl_text(document).encode()
    found["recipe"] = json.dumps({"recipe": RECIPE, "overwrite": True}).encode()
    assert otio.adapters.read_from_string(found["otio"].decode(), "otio_json") is not None
    return found


def _still(path: Path, ending: str) -> bytes:
    if ending == "webp":
        with av.open(str(path), "w", format="webp") as container:
            stream: Any = container.add_stream("libwebp", rate=1)
            stream.width, stream.height, stream.pix_fmt = 192, 96, "yuv420p"
            container.mux(stream.encode(av.VideoFrame.from_ndarray(numbered(9), format="rgb24")))
            container.mux(stream.encode(None))
    else:
        cv2.imwrite(str(path), numbered(9))
    return path.read_bytes()


def hostile_files(sound: dict[str, bytes]) -> st.SearchStrategy[HostileFile]:
    """Return damaged files, each format as often as the others."""

    @st.composite
    def one(draw: Callable[..., Any]) -> HostileFile:
        kind = draw(st.sampled_from(sorted(sound)))
        content = sound[kind]
        damage = _damage_text if kind in TEXTS else _damage
        for _ in range(draw(st.integers(1, 6))):
            content = damage(draw, content)
        # Sometimes the name promises another format.
        ending = draw(st.sampled_from([kind, kind, kind, *sorted(sound)])).split()[0]
        return HostileFile(kind, f"hostile.{ending}", content)

    return one()


def _damage(draw: Callable[..., Any], content: bytes) -> bytes:
    if not content:
        return content
    # Most formats keep what matters at their start or end.
    size = len(content)
    at = draw(st.one_of(st.integers(0, size - 1), st.integers(0, min(200, size - 1))))
    way = draw(st.integers(0, 5))
    data = bytearray(content)
    if way == 0:
        data[at] ^= 1 << draw(st.integers(0, 7))
    elif way == 1:
        del data[at:]
    elif way == 2:
        order = draw(st.sampled_from([">I", "<I"]))
        data[at : at + 4] = struct.pack(order, draw(st.sampled_from(_INTERESTING)))
    elif way == 3:
        length = draw(st.integers(1, 400))
        data[at:at] = data[at : at + length] * draw(st.integers(1, 3))
    elif way == 4:
        data[at : at + draw(st.integers(1, 400))] = b""
    else:
        data[at : at + 40] = draw(st.binary(max_size=40))
    return bytes(data)


def _damage_text(draw: Callable[..., Any], content: bytes) -> bytes:
    text = content.decode("utf-8", "replace")
    way = draw(st.integers(0, 2))
    if way == 0 or not text:
        return _damage(draw, content)
    at = draw(st.integers(0, len(text) - 1))
    if way == 1:
        return (text[:at] + draw(st.sampled_from(_TEXTS)) + text[at:]).encode("utf-8", "replace")
    # A value in place of another one: after a colon, or a column of a list.
    place = text.find(":", at)
    end = min((found for mark in ",}\n" if (found := text.find(mark, place)) > 0), default=at)
    value = draw(st.sampled_from(_TEXTS))
    return (text[: place + 1] + value + text[end:]).encode("utf-8", "replace")
