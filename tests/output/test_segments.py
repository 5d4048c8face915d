"""An edit joined from parts, beside the edit in one piece: the same frames and the same sound."""

from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import Any, cast

import av
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from numpy.typing import NDArray

from idle_shimmer.media.sound.accent_files import whole_sound
from idle_shimmer.media.write.output_formats import output_format
from idle_shimmer.output.opened_edit import opened_here
from idle_shimmer.output.plan import EditPlan, OutputSettings
from idle_shimmer.output.render_edit import render_edit
from idle_shimmer.output.segment_files import (
    SOUND_SUFFIX,
    join_parts,
    parts_of,
    read_tracks,
    write_part,
    write_sound,
)
from tests.support.edits import RATE, SIZE, plan_of, written_clips

# Parts that begin inside windows, under ramps and in untreated frames.
LIMITS = [0, 50, 53, 75, 110]


@pytest.fixture(scope="module")
def plan(tmp_path_factory: pytest.TempPathFactory) -> EditPlan:
    return plan_of(written_clips(tmp_path_factory.mktemp("segments")), framed=True)


def parts(plan: EditPlan) -> list[range]:
    ends = [*LIMITS[1:], plan.frame_count]
    return [range(first, end) for first, end in zip(LIMITS, ends, strict=True)]


def written(plan: EditPlan, folder: Path, form: str) -> tuple[Path, list[Path]]:
    """The joined file, and the parts."""
    settings = OutputSettings(output_format(form), quality="draft")
    suffix = settings.output.suffix
    files = []
    for number, frames in enumerate(parts(plan)):
        files.append(folder / f"part {number}{suffix}")
        with opened_here(plan, SIZE) as edit:
            write_part(files[-1], edit, frames, settings, lambda: None)
    joined, sound = folder / f"joined{suffix}", folder / f"sound{SOUND_SUFFIX}"
    with opened_here(plan, SIZE) as edit:
        write_sound(sound, edit, settings, lambda: None)
    told: list[int] = []
    join_parts(joined, files, list(read_tracks(sound)), plan, settings.output, told.append)
    assert told == [each.stop for each in parts(plan)]
    return joined, files


def decoded(file: Path) -> tuple[list[NDArray[Any]], list[float]]:
    """The frames of a file in their own pixels, and their times in seconds."""
    with av.open(str(file)) as container:
        frames = list(container.decode(video=0))
    # Another order of the same codes, where NumPy has none of the file's.
    named = {"bgr0": "rgb24"}
    pixels = [each.to_ndarray(format=named.get(each.format.name)) for each in frames]
    return pixels, [float(each.time or 0) for each in frames]


def test_joined_lossless_parts_are_the_whole_bit_for_bit(plan: EditPlan, tmp_path: Path) -> None:
    joined, _ = written(plan, tmp_path, "ffv1")
    settings = OutputSettings(output_format("ffv1"), quality="draft")
    with opened_here(plan, SIZE) as edit:
        render_edit(edit, "edit", settings, tmp_path / "whole.mkv", lambda: None)
    (found, times), (wanted, at) = decoded(joined), decoded(tmp_path / "whole.mkv")
    assert len(found) == len(wanted) == plan.frame_count
    assert all(np.array_equal(one, other) for one, other in zip(found, wanted, strict=True))
    # Matroska rounds times to milliseconds.
    assert np.allclose(times, at, atol=2e-3)
    np.testing.assert_array_equal(whole_sound(joined), whole_sound(tmp_path / "whole.mkv"))


@pytest.mark.parametrize("form", ["h264", "hevc", "prores", "vp9", "av1"])
def test_joining_codes_nothing_again(plan: EditPlan, tmp_path: Path, form: str) -> None:
    joined, files = written(plan, tmp_path, form)
    found, times = decoded(joined)
    alone = [frame for file in files for frame in decoded(file)[0]]
    assert len(found) == plan.frame_count
    assert all(np.array_equal(one, other) for one, other in zip(found, alone, strict=True))
    assert np.allclose(times, np.arange(len(found)) / float(RATE), atol=2e-3)
    with av.open(str(joined)) as container:
        video, (sound,) = container.streams.video[0], container.streams.audio
        tags = {**container.metadata, **video.metadata}
        code = next(value for name, value in tags.items() if name.lower() == "timecode")
        assert code == "00:00:00:00"
        length = float(sound.duration * sound.time_base) if sound.duration else None
        if form == "hevc":
            assert video.codec_context.codec_tag == "hvc1"
    if length is not None:
        assert length == pytest.approx(plan.frame_count / float(RATE), abs=0.1)
    assert not list(tmp_path.glob(".*"))


def test_joining_that_is_stopped_leaves_no_file(plan: EditPlan, tmp_path: Path) -> None:
    settings = OutputSettings(output_format("h264"), quality="draft")
    part, joined = tmp_path / "part.mp4", tmp_path / "joined.mp4"
    with opened_here(plan, SIZE) as edit:
        write_part(part, edit, range(5), settings, lambda: None)

    def stop(_: int) -> None:
        raise InterruptedError

    with pytest.raises(InterruptedError):
        join_parts(joined, [part, part], [], plan, settings.output, stop)
    assert list(tmp_path.iterdir()) == [part]


@dataclass
class Length:
    rate: Fraction
    frame_count: int


@given(
    st.sampled_from([Fraction(25), Fraction(24000, 1001), Fraction(60), Fraction(1, 2)]),
    st.integers(1, 200_000),
)
def test_parts_are_whole_seconds_and_cover_every_frame_once(rate: Fraction, count: int) -> None:
    found = parts_of(cast("EditPlan", Length(rate, count)))
    second = max(1, round(rate))
    assert [found[0].start, *(each.stop for each in found)] == [
        *(each.start for each in found),
        count,
    ]
    assert all(each.start % second == 0 for each in found)
    lengths = [len(each) for each in found]
    assert 0 < min(lengths) <= max(lengths) <= 10 * second
    # All but the last are equally long, and a shorter length would make more of them.
    assert len({*lengths[:-1]}) <= 1
    assert (max(lengths) - second) * len(lengths) < count


def test_an_edit_is_divided_evenly() -> None:
    edit = cast("EditPlan", Length(Fraction(25), 765))
    assert [len(each) for each in parts_of(edit)] == [200, 200, 200, 165]
