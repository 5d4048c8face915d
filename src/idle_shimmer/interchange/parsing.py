"""Parses a timeline, as a process of its own: a request on standard input, the answer on standard output.

It loads OpenTimelineIO and hardly anything else, so that it starts at once. What it finds is checked by
the one who asked.
"""

import json
import re
import resource
import sys
from collections.abc import Iterator
from dataclasses import asdict
from fractions import Fraction
from typing import Any

import opentimelineio as otio

from idle_shimmer.core.animation.timing import parse_rate, rate_text
from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.interchange.found import FoundClip, FoundCut, FoundTimeline
from idle_shimmer.interchange.list_rates import RateFit, mismatch_notes, rate_fits
from idle_shimmer.interchange.schema import KEY
from idle_shimmer.interchange.text_checks import check_json
from idle_shimmer.interchange.timeline_notes import timeline_notes

_MEMORY_BYTES = 2 << 30
_WIPE_CODE = re.compile(r"W(\d{3})")


def parse_timeline(text: str, name: str) -> FoundTimeline:
    """Return what the text of an .otio file called ``name`` has. Raises InvalidValue."""
    try:
        timeline = otio.adapters.read_from_string(text, "otio_json")
    except Exception as error:
        raise InvalidValue(f"{name} cannot be read: {error}", field="file") from error
    if not isinstance(timeline, otio.schema.Timeline):
        raise InvalidValue(f"{name} does not have exactly one timeline", field="file")
    return _found(timeline)


def parse_list(text: str, name: str, rate: Fraction) -> FoundTimeline:
    """Return what a list at ``rate`` has; drop-frame where the list says so.

    Raises InvalidValue where the text is not a list.
    """
    try:
        timeline = otio.adapters.read_from_string(
            text, "cmx_3600", rate=float(rate), ignore_timecode_mismatch=True
        )
    except Exception as error:
        raise InvalidValue(
            f"{name} cannot be read at {float(rate):g} fps: {error}", field="file"
        ) from error
    found = _found(timeline)
    found.notes.extend(mismatch_notes(text, rate))
    return found


def _found(timeline: Any) -> FoundTimeline:
    tracks = [each for each in timeline.tracks if each.kind == otio.schema.TrackKind.Video]
    clips = [item for item in (tracks[0] if tracks else []) if isinstance(item, otio.schema.Clip)]
    if not clips:
        raise InvalidValue(
            "the file has no video track with clips: export one that has", field="file"
        )
    facts = _kept(timeline)
    rate = parse_rate(facts["rate"]) if "rate" in facts else _rate_of(clips[0])
    return FoundTimeline(
        timeline.name or "Imported edit",
        rate_text(rate),
        facts.get("size"),
        [_clip(each, rate) for each in clips],
        list(_cuts(tracks[0], clips[-1], rate)),
        timeline_notes(timeline, tracks[0]),
    )


def _kept(item: Any) -> dict[str, Any]:
    """Return what our own timelines keep with an item, as plain values."""
    stored = item.metadata.get(KEY, {})
    plain: dict[str, Any] = json.loads(otio.core.serialize_json_to_string(stored))
    return plain


def _rate_of(clip: Any) -> Fraction:
    return parse_rate(f"{clip.trimmed_range().duration.rate:.3f}".rstrip("0").rstrip("."))


def _frames(time: Any, rate: Fraction) -> int:
    return round(time.rescaled_to(float(rate)).value)


def _clip(clip: Any, rate: Fraction) -> FoundClip:
    shown = clip.trimmed_range()
    url = getattr(clip.media_reference, "target_url", "") or clip.name
    first, length = _frames(shown.start_time, rate), _frames(shown.duration, rate)
    available = getattr(clip.media_reference, "available_range", None)
    # Media may start at a timecode of its own: our frame numbers start at its first frame.
    first -= _frames(available.start_time, rate) if available is not None else 0
    return FoundClip(
        str(url).replace("\\", "/").rsplit("/", 1)[-1],
        first,
        first + length,
        is_timecode=available is None,
        placed=_kept(clip).get("placed"),
    )


def _cuts(track: Any, last: Any, rate: Fraction) -> Iterator[FoundCut]:
    items = [item for item in track if not isinstance(item, otio.schema.Gap)]
    for place, item in enumerate(items):
        if not isinstance(item, otio.schema.Clip) or item is last:
            continue
        following = items[place + 1]
        if (kept := _kept(item).get("cut")) is not None:
            yield FoundCut(kept)
        elif isinstance(following, otio.schema.Transition):
            ahead, behind = (
                _frames(each, rate) for each in (following.in_offset, following.out_offset)
            )
            yield FoundCut(ahead=ahead, behind=behind, wipe_code=_wipe_code(following))
        else:
            yield FoundCut()


def _wipe_code(transition: Any) -> int | None:
    name = transition.metadata.get("cmx_3600", {}).get("transition", "")
    wipe = _WIPE_CODE.match(str(name))
    return int(wipe[1]) if wipe is not None else None


def _as_json(fit: RateFit) -> dict[str, Any]:
    return {**asdict(fit), "rate": rate_text(fit.rate)}


def _answer(request: dict[str, Any]) -> dict[str, Any]:
    try:
        if request["kind"] == "rates":
            return {"fits": [_as_json(each) for each in rate_fits(request["text"])]}
        if request["kind"] == "otio":
            check_json(request["text"], request["name"])
            found = parse_timeline(request["text"], request["name"])
        else:
            found = parse_list(request["text"], request["name"], parse_rate(request["rate"]))
    except InvalidValue as error:
        return {"problem": error.message}
    except (TypeError, ValueError, KeyError, AttributeError, OverflowError) as error:
        return {"problem": f"{request['name']} cannot be read: {error}"}
    return {"found": asdict(found)}


def _main() -> None:
    resource.setrlimit(resource.RLIMIT_AS, (_MEMORY_BYTES, _MEMORY_BYTES))
    resource.setrlimit(resource.RLIMIT_FSIZE, (0, 0))
    request = json.load(sys.stdin)
    # At the lower limit the system ends the process with a signal of its own, which tells why.
    resource.setrlimit(resource.RLIMIT_CPU, (request["seconds"], request["seconds"] + 1))
    print(json.dumps(_answer(request)))


if __name__ == "__main__":
    _main()
