"""Lays sounds over each other, part by part, sample for sample."""

from collections.abc import Iterable, Iterator, Sequence

from idle_shimmer.core.sound.accent import PlacedSound
from idle_shimmer.core.sound.samples import Sound


def mixed(parts: Iterable[Sound], first: int, laid: Sequence[PlacedSound]) -> Iterator[Sound]:
    """Yield ``parts``, which begin at sample ``first``, with the sounds of ``laid`` added where they are.

    All samples are counted from one point. Nothing is limited: what is too loud stays so.
    """
    for part in parts:
        end = first + len(part)
        over = [each for each in laid if each.first < end and each.end > first]
        if over:
            part = part.copy()
        for each in over:
            start, stop = max(first, each.first), min(end, each.end)
            part[start - first : stop - first] += each.samples[
                start - each.first : stop - each.first
            ]
        yield part
        first = end
