"""Proxies: every picture by its number, at once, and only where a clip is slow to decode."""

from pathlib import Path

import pytest

from idle_shimmer.media.previews.picture_cache import PictureCache, Source
from idle_shimmer.media.previews.proxy_video import write_proxy
from idle_shimmer.media.read.index import read_facts
from idle_shimmer.media.read.reader import VideoReader
from tests.support.clips import number_in, numbered, write_clip

SIZE, COUNT = (192, 96), 160
# One keyframe at the start; pictures refer to later ones as well.
ONE_KEYFRAME = {"crf": "10", "g": "1000", "keyint_min": "1000", "sc_threshold": "0", "bf": "3"}


@pytest.fixture(scope="module")
def slow(tmp_path_factory: pytest.TempPathFactory) -> Path:
    pictures = [numbered(n) for n in range(COUNT)]
    return write_clip(tmp_path_factory.mktemp("slow") / "slow.mp4", pictures, options=ONE_KEYFRAME)


@pytest.fixture(scope="module")
def proxy(slow: Path) -> Path:
    done: list[int] = []
    out = slow.with_name("proxy.mkv")
    assert write_proxy(slow, out, lambda size: size, done.append)
    assert done == list(range(1, COUNT + 1))
    return out


def test_every_picture_of_a_proxy_is_a_keyframe_and_that_of_the_clip(proxy: Path) -> None:
    index = read_facts(proxy)[1]
    assert index.keyframes == tuple(range(COUNT))
    with VideoReader(proxy) as reader:
        assert [number_in(reader.read(n)) for n in range(COUNT)] == list(range(COUNT))


def test_a_clip_whose_pictures_are_near_their_keyframes_has_none(tmp_path: Path) -> None:
    clip = write_clip(
        tmp_path / "quick.mp4", [numbered(n) for n in range(60)], options={"crf": "10", "g": "12"}
    )
    out = tmp_path / "proxy.mkv"
    assert not write_proxy(clip, out, lambda size: size, lambda _: None)
    assert not out.exists()


def test_pictures_far_from_a_keyframe_come_from_the_proxy_and_no_others(
    slow: Path, tmp_path: Path
) -> None:
    """The proxy here carries other numbers, so that it shows where a picture comes from."""
    other = write_clip(
        tmp_path / "other.mkv",
        [numbered(n + 1000) for n in range(COUNT)],
        options={"crf": "10", "g": "1"},
    )
    cache = PictureCache()
    cache.proxy_of = lambda path: other if path == slow else None
    shown = {
        n: number_in(cache.picture(Source(slow), SIZE, n)) for n in (0, 5, 100, 101, 150, 10, 60)
    }
    assert shown == {0: 0, 5: 5, 100: 1100, 101: 1101, 150: 1150, 10: 10, 60: 1060}
    # A larger picture than the proxy has is the clip's own.
    assert number_in(cache.picture(Source(slow), (384, 192), 80)) == 80
    without = PictureCache()
    assert number_in(without.picture(Source(slow), SIZE, 100)) == 100


def test_a_proxy_looks_like_its_clip(slow: Path, proxy: Path) -> None:
    with VideoReader(slow) as one, VideoReader(proxy) as other:
        for n in (3, 90):
            apart = abs(one.read(n).astype(float) - other.read(n)).mean()
            assert apart < 1.5
