"""Makes whole pictures of interlaced ones: one for each, by libavfilter's ``bwdif``."""

from collections import deque
from collections.abc import Iterable, Iterator
from contextlib import suppress
from fractions import Fraction

import av


def deinterlaced(pictures: Iterable[av.VideoFrame]) -> Iterator[av.VideoFrame]:
    """Yield each picture deinterlaced, from itself and its neighbours; its time stays.

    The first one has no neighbour before it.
    """
    graph: av.filter.Graph | None = None
    times: deque[int | None] = deque()
    for picture in pictures:
        if graph is None:
            graph = _graph(picture)
        times.append(picture.pts)
        graph.push(picture)
        yield from _done(graph, times)
    if graph is not None:
        graph.push(None)
        yield from _done(graph, times)


def _done(graph: av.filter.Graph, times: "deque[int | None]") -> Iterator[av.VideoFrame]:
    with suppress(av.BlockingIOError, av.EOFError):
        while True:
            picture = graph.pull()
            assert isinstance(picture, av.VideoFrame)
            # The filter counts in half the time base.
            picture.pts = times.popleft()
            yield picture


def _graph(picture: av.VideoFrame) -> av.filter.Graph:
    graph = av.filter.Graph()
    begin = graph.add_buffer(
        width=picture.width,
        height=picture.height,
        format=picture.format,
        time_base=picture.time_base or Fraction(1, 1000),
    )
    # By the field order of each picture.
    filter_ = graph.add("bwdif", "mode=send_frame:parity=auto:deint=all")
    end = graph.add("buffersink")
    begin.link_to(filter_)
    filter_.link_to(end)
    graph.configure()
    return graph
