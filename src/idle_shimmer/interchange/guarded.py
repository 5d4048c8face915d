"""Reads timelines that are not trusted: checked as text, then parsed in a process of their own.

The parser is a native library. A file that makes it crash, hang or use too much memory ends that
process, not the server. The process is given no environment, a limit on memory and one on time.
"""

import json
import math
import re
import resource
import subprocess
import sys
from collections.abc import Iterator
from fractions import Fraction
from typing import Any

from idle_shimmer.core.animation.timing import MAX_SIDE_FRAMES, parse_rate, rate_text
from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.core.recipe import recipe_from_json, recipe_to_json
from idle_shimmer.interchange.decision_lists import read_edl
from idle_shimmer.interchange.kept_clips import kept_clip
from idle_shimmer.interchange.timelines import KEY, EditDocument, Join, Shot, read_timeline
from idle_shimmer.limits import (
    MAX_CLIPS_IN_EDIT,
    MAX_FRAME,
    MAX_NAME_LENGTH,
    MAX_SIDE_PX,
    MIN_SIDE_PX,
)

MAX_BYTES = 20_000_000
# Timelines nest about ten deep; the parser recurses for each level.
MAX_DEPTH = 64
MAX_NUMBER = 1e12
_SECONDS = 20
_MAX_NOTES, _MAX_NOTE = 40, 600
_MEMORY_BYTES = 2 << 30
_OPEN, _CLOSE = "[{", "]}"
# OpenTimelineIO writes infinities so, which JSON does not have.
_BARE_INF = re.compile(r"(?<=[:\[,\s])(-?)Inf(?=[\s,\]}])")
_STRING_OR_BRACKET = re.compile(r'"(?:[^"\\]|\\.)*"|[\[\]{}]')


def read_edit(text: str, name: str, rate: Fraction) -> EditDocument:
    """Return the edit in the text of an .otio or .edl file called ``name``.

    ``rate`` is that of a list, which does not state its own. Raises InvalidValue.
    """
    kind = name.rsplit(".", 1)[-1].lower()
    if kind not in ("otio", "edl"):
        raise InvalidValue(f"{name} is not an .otio or .edl file: choose one", field="file")
    check_text(text, name, is_json=kind == "otio")
    request = {"text": text, "name": name, "rate": rate_text(rate), "kind": kind}
    answer = _asked(request, name)
    if "problem" in answer:
        raise InvalidValue(answer["problem"], field="file")
    return _document_of(answer["document"], name)


def check_text(text: str, name: str, *, is_json: bool) -> None:
    """Refuse a text that is too long, nests too deeply, or has numbers that no edit has."""
    if len(text) > MAX_BYTES:
        raise InvalidValue(f"{name} is too large: edits have at most 20 MB", field="file")
    if "\0" in text:
        raise InvalidValue(f"{name} contains zero bytes: it is not a text file", field="file")
    if not is_json:
        return
    if _depth(text) > MAX_DEPTH:
        raise InvalidValue(
            f"{name} cannot be read: it nests more than {MAX_DEPTH} levels deep", field="file"
        )
    try:
        document = json.loads(_BARE_INF.sub(r"\1Infinity", text))
    except ValueError as error:
        raise InvalidValue(f"{name} cannot be read: {error}", field="file") from error
    if any(not math.isfinite(each) or abs(each) > MAX_NUMBER for each in _numbers(document)):
        raise InvalidValue(
            f"{name} cannot be read: it has a time or number that no edit has", field="file"
        )


def _depth(text: str) -> int:
    """Return how deep the brackets outside strings nest."""
    depth = most = 0
    for match in _STRING_OR_BRACKET.finditer(text):
        if match[0] in _OPEN:
            depth += 1
            most = max(most, depth)
        elif match[0] in _CLOSE:
            depth -= 1
    return most


def _numbers(value: Any) -> Iterator[float]:
    if isinstance(value, bool):
        return
    if isinstance(value, int | float):
        yield float(value) if abs(value) < MAX_NUMBER * 10 else math.inf
    elif isinstance(value, dict):
        for name, each in value.items():
            # What other programs keep for themselves is not used.
            if name != "metadata" or (isinstance(each, dict) and KEY in each):
                yield from _numbers(each)
    elif isinstance(value, list):
        for each in value:
            yield from _numbers(each)


def _asked(request: dict[str, str], name: str) -> dict[str, Any]:
    try:
        # This interpreter and this module: no part of the command comes from the file.
        done = subprocess.run(
            [sys.executable, "-m", "idle_shimmer.interchange.guarded"],
            input=json.dumps(request).encode(),
            capture_output=True,
            timeout=_SECONDS,
            env={"PYTHONIOENCODING": "utf-8"},
            check=True,
        )
        answer: dict[str, Any] = json.loads(done.stdout)
    except subprocess.TimeoutExpired as error:
        raise InvalidValue(
            f"{name} cannot be read within {_SECONDS} s: export a shorter part", field="file"
        ) from error
    except (subprocess.CalledProcessError, ValueError) as error:
        raise InvalidValue(
            f"{name} cannot be read: it is damaged. Export it again", field="file"
        ) from error
    return answer


def _document_of(found: dict[str, Any], name: str) -> EditDocument:
    """Return the document of an answer, its values checked: the process is not trusted either."""
    size = tuple(found["size"]) if found["size"] is not None else None
    low, high = MIN_SIDE_PX, MAX_SIDE_PX
    if size is not None and not (len(size) == 2 and all(low <= int(n) <= high for n in size)):
        raise InvalidValue(
            f"{name} asks for a frame size of {size}: sides have {low} to {high} px", field="file"
        )
    if len(found["shots"]) > MAX_CLIPS_IN_EDIT:
        raise InvalidValue(
            f"{name} has {len(found['shots'])} clips: an edit has at most {MAX_CLIPS_IN_EDIT}",
            field="file",
        )
    shots = [
        Shot(
            str(file),
            int(first),
            int(end),
            is_timecode=bool(is_timecode),
            kept=kept_clip(kept, str(file)),
        )
        for file, first, end, is_timecode, kept in found["shots"]
    ]
    if any(not 0 <= shot.in_frame < shot.out_frame <= MAX_FRAME for shot in shots):
        raise InvalidValue(f"{name} has a clip without frames, or before its start", field="file")
    joins = [
        Join(_side(before, name), _side(after, name), recipe_from_json(recipe))
        for before, after, recipe in found["joins"]
    ]
    return EditDocument(
        str(found["name"])[:MAX_NAME_LENGTH],
        parse_rate(found["rate"]),
        size,
        shots,
        joins,
        [str(each)[:_MAX_NOTE] for each in found["notes"][:_MAX_NOTES]],
    )


def _side(frames: int, name: str) -> int:
    if not 1 <= frames <= MAX_SIDE_FRAMES:
        raise InvalidValue(
            f"{name} has a window of {frames} frames: a side has 1 to {MAX_SIDE_FRAMES}",
            field="file",
        )
    return frames


def _answer(request: dict[str, str]) -> dict[str, Any]:
    """Parse in this process; return the document or the problem as JSON."""
    try:
        if request["kind"] == "otio":
            edit = read_timeline(request["text"], request["name"])
        else:
            edit = read_edl(request["text"], request["name"], parse_rate(request["rate"]))
    except InvalidValue as error:
        return {"problem": error.message}
    except (TypeError, ValueError, KeyError, AttributeError, OverflowError) as error:
        return {"problem": f"{request['name']} cannot be read: {error}"}
    return {
        "document": {
            "name": edit.name,
            "rate": rate_text(edit.rate),
            "size": edit.size,
            "notes": edit.notes,
            "shots": [
                (each.file, each.in_frame, each.out_frame, each.is_timecode, each.kept.as_json())
                for each in edit.shots
            ],
            "joins": [
                (each.before, each.after, recipe_to_json(each.recipe)) for each in edit.joins
            ],
        }
    }


def _main() -> None:
    """Answer the request on standard input on standard output."""
    resource.setrlimit(resource.RLIMIT_AS, (_MEMORY_BYTES, _MEMORY_BYTES))
    resource.setrlimit(resource.RLIMIT_CPU, (_SECONDS, _SECONDS))
    resource.setrlimit(resource.RLIMIT_FSIZE, (0, 0))
    print(json.dumps(_answer(json.load(sys.stdin))))


if __name__ == "__main__":
    _main()
