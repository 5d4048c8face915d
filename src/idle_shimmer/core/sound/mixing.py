"""Lays sounds over each other, part by part, sample for sample."""

from collections.abc import Iterable, Iterator, Sequence
from typing import Protocol

from idle_shimmer.core.sound.samples import Sound


class Laid(Protocol):
    """Sound from sample ``first`` up to ``end``, exclusive."""

    @property
    def first(self) -> int:
        """Its first sample."""

    @property
    def end(self) -> int:
        """The sample after its last one."""

    def part(self, start: int, stop: int) -> Sound:
        """Return its samples ``start`` … ``stop``, exclusive, which lie inside it."""


def mixed(parts: Iterable[Sound], first: int, laid: Sequence[Laid]) -> Iterator[Sound]:
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
            part[start - first : stop - first] += each.part(start, stop)
        yield part
        first = end


def between(parts: Iterable[Sound], start: int, end: int) -> Iterator[Sound]:
    """Yield samples ``start`` … ``end`` (exclusive) of sound in parts, of which no more is read."""
    at = 0
    for part in parts:
        if at + len(part) > start:
            yield part[max(0, start - at) : end - at]
        at += len(part)
        if at >= end:
            return
