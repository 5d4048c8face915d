"""Reads timelines that are not trusted: whatever looks into their text does so in a process of its own.

The parser is a native library. A file that makes it crash, hang or use too much memory ends that
process, not the server. The process is given no environment, a limit on memory and one on the time that
it computes: on a machine that is busy a good file takes long, and is read all the same.
"""

import json
import signal
import subprocess
import sys
from fractions import Fraction
from typing import Any

from pydantic import TypeAdapter

from idle_shimmer.core.animation.timing import rate_text
from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.interchange.found import FoundTimeline
from idle_shimmer.interchange.list_rates import RateFit
from idle_shimmer.interchange.reading import edit_of
from idle_shimmer.interchange.timelines import EditDocument

MAX_BYTES = 20_000_000
COMPUTING_SECONDS = 20
# For a process that waits and does not compute, which no file is known to cause.
_WAITING_SECONDS = 300
_FOUND: TypeAdapter[FoundTimeline] = TypeAdapter(FoundTimeline)
_FITS: TypeAdapter[list[RateFit]] = TypeAdapter(list[RateFit])


def read_edit(text: str, name: str, rate: Fraction) -> EditDocument:
    """Return the edit in the text of an .otio or .edl file called ``name``.

    ``rate`` is that of a list, which does not state its own. Raises InvalidValue.
    """
    kind = name.rsplit(".", 1)[-1].lower()
    if kind not in ("otio", "edl"):
        raise InvalidValue(f"{name} is not an .otio or .edl file: choose one", field="file")
    _require_text(text, name)
    request = {"text": text, "name": name, "rate": rate_text(rate), "kind": kind}
    return edit_of(_FOUND.validate_python(_asked(request, name)["found"]), name)


def read_rates(text: str, name: str) -> list[RateFit]:
    """Return how well an edit decision list called ``name`` adds up at the common rates, the best first.

    Raises InvalidValue where the text is too long, or is not text.
    """
    _require_text(text, name)
    answer = _asked({"text": text, "name": name, "kind": "rates"}, name)
    return _FITS.validate_python(answer["fits"])


def _require_text(text: str, name: str) -> None:
    if len(text) > MAX_BYTES:
        raise InvalidValue(f"{name} is too large: edits have at most 20 MB", field="file")
    if "\0" in text:
        raise InvalidValue(f"{name} contains zero bytes: it is not a text file", field="file")


def _asked(request: dict[str, Any], name: str) -> dict[str, Any]:
    """Return what the process that parses answers. Raises InvalidValue for what it refuses."""
    damaged = InvalidValue(f"{name} cannot be read: it is damaged. Export it again", field="file")
    status, output = _answer(json.dumps({**request, "seconds": COMPUTING_SECONDS}).encode())
    if status == -signal.SIGXCPU:
        raise InvalidValue(
            f"{name} cannot be read within {COMPUTING_SECONDS} s: export a shorter part",
            field="file",
        )
    if status != 0:
        raise damaged
    try:
        answer = dict(json.loads(output))
        if "problem" not in answer:
            checked = _FITS if "fits" in answer else _FOUND
            checked.validate_python(answer["fits" if "fits" in answer else "found"])
            return answer
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
