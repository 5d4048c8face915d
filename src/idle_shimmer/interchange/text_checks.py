"""Refuses timelines as text, before the native parser sees them; run by the process that parses."""

import json
import math
import re
from collections.abc import Iterator
from typing import Any

from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.interchange.schema import KEY

# Timelines nest about ten deep; the parser recurses for each level.
MAX_DEPTH = 64
MAX_NUMBER = 1e12
_OPEN, _CLOSE = "[{", "]}"
# OpenTimelineIO writes infinities so, which JSON does not have.
_BARE_INF = re.compile(r"(?<=[:\[,\s])(-?)Inf(?=[\s,\]}])")
# A string that never ends is one match as well: nothing is looked at twice.
_STRING_OR_BRACKET = re.compile(r'"(?:[^"\\]++|\\.)*+"?|[\[\]{}]', re.DOTALL)


def check_json(text: str, name: str) -> None:
    """Refuse JSON that nests too deeply, or has numbers that no edit has. Raises InvalidValue."""
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
