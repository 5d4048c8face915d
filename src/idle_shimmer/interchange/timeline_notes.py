"""What of a foreign timeline an edit does not have, in sentences."""

from collections import Counter
from collections.abc import Iterator
from typing import Any

import opentimelineio as otio

_NAMED = 4


def timeline_notes(timeline: Any, shown: Any) -> list[str]:
    """Return what is left out of ``timeline``, of which the track ``shown`` is read."""
    return [*_track_notes(timeline, shown), *_item_notes(shown), *_speed_notes(shown)]


def _track_notes(timeline: Any, shown: Any) -> Iterator[str]:
    kinds = Counter(each.kind for each in timeline.tracks if each is not shown)
    if pictures := kinds[otio.schema.TrackKind.Video]:
        yield f"Only the first video track is read: {_counted(pictures, 'more track')} left out."
    if sounds := kinds[otio.schema.TrackKind.Audio]:
        yield f"{_counted(sounds, 'sound track')} left out: the clips keep their own sound."


def _item_notes(shown: Any) -> Iterator[str]:
    gaps = sum(isinstance(each, otio.schema.Gap) and each.duration().value > 0 for each in shown)
    if gaps:
        yield f"{_counted(gaps, 'gap')} left out: what follows comes earlier."
    nested = sum(isinstance(each, otio.core.Composition) for each in shown)
    if nested:
        yield f"{_counted(nested, 'nested timeline')} left out."
    made = [
        each.name
        for each in shown
        if isinstance(each, otio.schema.Clip)
        and isinstance(each.media_reference, otio.schema.GeneratorReference)
    ]
    if made:
        yield f"Generated pictures have no file: {_listed(made)}."


def _speed_notes(shown: Any) -> Iterator[str]:
    frozen, changed, others = [], [], []
    for each in shown:
        for effect in getattr(each, "effects", []):
            if isinstance(effect, otio.schema.LinearTimeWarp) and effect.time_scalar == 0:
                frozen.append(each.name)
            elif isinstance(effect, otio.schema.LinearTimeWarp):
                changed.append(f"{each.name} ({effect.time_scalar:.0%})")
            else:
                others.append(each.name)
    if changed:
        yield f"Played at normal speed, as long as in the file: {_listed(changed)}."
    if frozen:
        yield f"Freeze frames play at normal speed, as long as in the file: {_listed(frozen)}."
    if others:
        yield f"Effects are left out: {_listed(others)}."


def _counted(count: int, noun: str) -> str:
    return f"{count} {noun} is" if count == 1 else f"{count} {noun}s are"


def _listed(names: list[str]) -> str:
    more = len(names) - _NAMED
    return ", ".join(names[:_NAMED]) + (f" and {more} more" if more > 0 else "")
