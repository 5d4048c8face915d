"""Reads timelines that are not trusted: checked as text, then parsed in a process of their own.

The parser is a native library. A file that makes it crash, hang or use too much memory ends that
process, not the server. The process is given no environment, a limit on memory and one on the time that
it computes: on a machine that is busy a good file takes long, and is read all the same.
"""

import json
import math
import re
import signal
import subprocess
import sys
from collections.abc import Iterator
from fractions import Fraction
from typing import Any

from pydantic import TypeAdapter

from idle_shimmer.core.animation.timing import rate_text
from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.interchange.found import FoundTimeline
from idle_shimmer.interchange.reading import edit_of
from idle_shimmer.interchange.schema import KEY
from idle_shimmer.interchange.timelines import EditDocument

MAX_BYTES = 20_000_000
# Timelines nest about ten deep; the parser recurses for each level.
MAX_DEPTH = 64
MAX_NUMBER = 1e12
COMPUTING_SECONDS = 20
# For a process that waits and does not compute, which no file is known to cause.
_WAITING_SECONDS = 300
_FOUND: TypeAdapter[FoundTimeline] = TypeAdapter(FoundTimeline)
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
    return edit_of(_found({**request, "seconds": COMPUTING_SECONDS}, name), name)


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


def _found(request: dict[str, Any], name: str) -> FoundTimeline:
    damaged = InvalidValue(f"{name} cannot be read: it is damaged. Export it again", field="file")
    status, output = _answer(json.dumps(request).encode())
    if status == -signal.SIGXCPU:
        raise InvalidValue(
            f"{name} cannot be read within {request['seconds']} s: export a shorter part",
            field="file",
        )
    if status != 0:
        raise damaged
    try:
        answer = dict(json.loads(output))
        if "problem" not in answer:
            return _FOUND.validate_python(answer["found"])
    except (ValueError, TypeError, KeyError) as error:
        raise damaged from error
    raise InvalidValue(str(answer["problem"]), field="file")


def _answer(request: bytes) -> tuple[int, bytes]:
    """Return how the process that parses ended, and what it wrote."""
    try:
        # This interpreter and this module: no part of the command comes from the file.
        done = subprocess.run(
            [sys.executable, "-I", "-X", "utf8", "-m", "idle_shimmer.interchange.parsing"],
            input=request,
            capture_output=True,
            timeout=_WAITING_SECONDS,
            env={},
            check=False,
        )
    except subprocess.TimeoutExpired:
        return -signal.SIGXCPU, b""
    return done.returncode, done.stdout
