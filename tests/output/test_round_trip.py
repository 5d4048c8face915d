"""Round trips: read back by the libraries of their formats, they play as the edit does."""

import zipfile
from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import numpy as np
import opentimelineio as otio
import pytest
from numpy.typing import NDArray

from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.core.recipe import recipe_from_json
from idle_shimmer.demo.build import CUTS, PLACED, build_clips
from idle_shimmer.demo.paint import HEIGHT, WIDTH
from idle_shimmer.demo.paint import RATE as DEMO_RATE
from idle_shimmer.media.read.reader import VideoReader
from idle_shimmer.media.sound.sound_parts import read_sound
from idle_shimmer.media.write.output_formats import FORMATS
from idle_shimmer.media.write.writer import frame_of, writing
from idle_shimmer.output.opened_edit import opened_here
from idle_shimmer.output.plan import EditPlan, OutputSettings, PlannedClip, PlannedCut
from idle_shimmer.output.render_edit import render_edit
from idle_shimmer.settings import settings
from tests.support.edits import RATE, plan_of, written_clips

HANDLES = 3


@pytest.fixture(scope="module")
def clips(tmp_path_factory: pytest.TempPathFactory) -> list[Path]:
    return written_clips(tmp_path_factory.mktemp("clips"))


@pytest.fixture(scope="module", params=[False, True], ids=["plain", "framed"])
def plan(request: pytest.FixtureRequest, clips: list[Path]) -> EditPlan:
    return plan_of(clips, framed=request.param)


@pytest.fixture(scope="module")
def whole(plan: EditPlan, tmp_path_factory: pytest.TempPathFactory) -> list[NDArray]:
    """Every frame of the whole edit, rendered without loss."""
    return rendered_whole(plan, tmp_path_factory.mktemp("whole"))


def rendered_whole(plan: EditPlan, folder: Path) -> list[NDArray]:
    path = folder / "edit.mkv"
    with opened_here(plan, plan.size) as edit:
        render_edit(edit, "edit", OutputSettings(FORMATS["ffv1"]), path, lambda: None)
    return list(frames_of(path))


@pytest.fixture(scope="module")
def unpacked(plan: EditPlan, tmp_path_factory: pytest.TempPathFactory) -> Path:
    return round_trip(plan, tmp_path_factory.mktemp("round-trip"))


def round_trip(plan: EditPlan, folder: Path) -> Path:
    """The folder of an unpacked round trip, the original clips beside it."""
    chosen = OutputSettings(FORMATS["ffv1"], handles=HANDLES)
    with opened_here(plan, plan.size) as edit:
        render_edit(edit, "round_trip", chosen, folder / "all.zip", lambda: None)
    with zipfile.ZipFile(folder / "all.zip") as archive:
        archive.extractall(folder)
    for placed in plan.placed:
        target = folder / placed.file_name
        if not target.exists():
            target.symlink_to(placed.file)
    return folder


def frames_of(path: Path) -> Iterator[NDArray]:
    with VideoReader(path) as reader:
        for number in range(reader.index.count):
            yield reader.read(number)


def played(timeline: Any, folder: Path, media_of: Any) -> Iterator[NDArray]:
    """Play the first video track: for each clip, its frames counted from what it has."""
    (track,) = [each for each in timeline.tracks if each.kind == otio.schema.TrackKind.Video]
    for clip in track:
        path, begun = media_of(clip, folder)
        shown = clip.trimmed_range()
        first = round(shown.start_time.value) - begun
        frames = list(frames_of(path))
        yield from frames[first : first + round(shown.duration.value)]


def media_of_timeline(clip: Any, folder: Path) -> tuple[Path, int]:
    media = clip.media_reference
    return folder / media.target_url, round(media.available_range.start_time.value)


def media_of_list(clip: Any, folder: Path) -> tuple[Path, int]:
    """An EDL names its clips; rendered ones count from the timecode that their file carries."""
    rendered = list((folder / "media").glob(f"{clip.name}.*"))
    if not rendered:
        return folder / f"{clip.name}.mkv", 0
    with av.open(str(rendered[0])) as container:
        tags = {name.lower(): value for name, value in container.metadata.items()}
    code = tags["timecode"]
    return rendered[0], round(otio.opentime.from_timecode(code, float(RATE)).value)


def test_the_timeline_plays_as_the_edit_does(
    plan: EditPlan, whole: list[NDArray], unpacked: Path
) -> None:
    timeline = otio.adapters.read_from_file(str(unpacked / "Harbour evening.otio"))
    assert_same(list(played(timeline, unpacked, media_of_timeline)), whole)
    assert len(whole) == plan.frame_count


def test_the_decision_list_plays_as_the_edit_does(whole: list[NDArray], unpacked: Path) -> None:
    text = (unpacked / "Harbour evening.edl").read_text(encoding="utf-8")
    timeline = otio.adapters.read_from_string(text, "cmx_3600", rate=float(RATE))
    assert_same(list(played(timeline, unpacked, media_of_list)), whole)


def assert_same(found: list[NDArray], expected: list[NDArray]) -> None:
    assert len(found) == len(expected)
    for number, (one, other) in enumerate(zip(found, expected, strict=True)):
        np.testing.assert_array_equal(one, other, err_msg=f"frame {number}")


def test_the_sound_track_plays_as_the_edit_does(plan: EditPlan, unpacked: Path) -> None:
    with opened_here(plan, plan.size) as edit:
        expected = np.concatenate(list(edit.sound.whole()))
    timeline = otio.adapters.read_from_file(str(unpacked / "Harbour evening.otio"))
    (track,) = [each for each in timeline.tracks if each.kind == otio.schema.TrackKind.Audio]
    parts = []
    for clip in track:
        path, begun = media_of_timeline(clip, unpacked)
        shown = clip.trimmed_range()
        first = round(shown.start_time.value) - begun
        parts.append(read_sound(path, first / RATE, round(shown.duration.value) / RATE))
    found = np.concatenate(parts)
    assert found.shape == expected.shape
    # The edit fades its clips for 5 ms where they meet; 16 bits round the rest.
    apart = np.abs(found - expected).max(axis=1) > 2 / 32768
    assert np.count_nonzero(apart) <= 2 * len(plan.cuts) * 240


def test_what_is_in_it_is_listed(unpacked: Path, plan: EditPlan) -> None:
    names = sorted(each.name for each in (unpacked / "media").iterdir())
    windows = ["Harbour evening cut 01 Fast across.mkv", "Harbour evening cut 02 Push.mkv"]
    framed = plan.placed[3].framing.moves
    assert names == sorted(windows + (["clip 3.mkv"] if framed else []))
    contents = (unpacked / "Contents.txt").read_text(encoding="utf-8")
    assert all(name in contents for name in names)
    assert "Cut 1, spare frames: the last frame may stand" in contents


def test_pictures_alone_are_refused(plan: EditPlan, tmp_path: Path) -> None:
    with (
        opened_here(plan, plan.size) as edit,
        pytest.raises(InvalidValue, match="needs a video format"),
    ):
        render_edit(
            edit, "round_trip", OutputSettings(FORMATS["png8"]), tmp_path / "a.zip", lambda: None
        )
    assert list(tmp_path.iterdir()) == []


def test_handles_are_the_untreated_frames_of_the_clips(
    plan: EditPlan, unpacked: Path, clips: list[Path]
) -> None:
    """Of the second window, whose outgoing clip has no ramp: its own frames ahead of the window."""
    rendered = list(frames_of(unpacked / "media" / "Harbour evening cut 02 Push.mkv"))
    window = plan.cuts[1].window
    assert len(rendered) == window.before + window.after + 2 * HANDLES
    end = plan.played[1].end
    originals = list(frames_of(clips[1]))
    for n in range(HANDLES):
        expected = originals[end - window.before - HANDLES + n]
        np.testing.assert_array_equal(rendered[n], expected)


def test_the_output_of_an_untreated_frame_is_the_source(clips: list[Path], plan: EditPlan) -> None:
    with opened_here(plan, plan.size) as edit, VideoReader(clips[0]) as reader:
        run = plan.played[0]
        pictures = list(edit.source_pictures(0, run.untreated_first, run.untreated_end))
        for number, picture in enumerate(pictures, run.untreated_first):
            np.testing.assert_array_equal(picture.codes(8), reader.read(number))


@pytest.fixture(scope="module")
def demo_plan(tmp_path_factory: pytest.TempPathFactory) -> EditPlan:
    """The demo edit, a sixth as large, with a speed ramp and a push besides its own transitions."""
    size, folder = (WIDTH // 6, HEIGHT // 6), tmp_path_factory.mktemp("small")
    ramp = {"outgoing": {"speed": {"kind": "swell", "peak": 2.4}}}
    changes: dict[int, dict[str, Any]] = {1: {"retime": ramp}, 2: {"mix": {"kind": "push"}}}
    placed = tuple(
        PlannedClip(path.stem, small_copy(path, folder, size), first, end)
        for path, first, end in placed_clips()
    )
    cuts = tuple(
        PlannedCut(
            Window(cut.before, cut.after),
            recipe_from_json({**cut.recipe, **changes.get(n, {})}),
            n + 1,
        )
        for n, cut in enumerate(CUTS)
    )
    return EditPlan("Lantern night", size, Fraction(DEMO_RATE), placed, cuts)


def placed_clips() -> Iterator[tuple[Path, int, int]]:
    paths = build_clips(settings().demo)
    return ((paths[scene], first, end) for scene, first, end in PLACED)


def small_copy(path: Path, folder: Path, size: tuple[int, int]) -> Path:
    small = folder / f"{path.stem}.mkv"
    with (
        VideoReader(path, size) as reader,
        writing(small, size, Fraction(DEMO_RATE)) as writer,
    ):
        for number in range(reader.index.count):
            writer.write(frame_of(reader.read(number)))
    return small


def test_the_demo_edit_comes_back_frame_for_frame(demo_plan: EditPlan, tmp_path: Path) -> None:
    whole = rendered_whole(demo_plan, tmp_path)
    unpacked = round_trip(demo_plan, tmp_path)
    timeline = otio.adapters.read_from_file(str(unpacked / "Lantern night.otio"))
    assert_same(list(played(timeline, unpacked, media_of_timeline)), whole)
    text = (unpacked / "Lantern night.edl").read_text(encoding="utf-8")
    listed = otio.adapters.read_from_string(text, "cmx_3600", rate=float(DEMO_RATE))
    assert_same(list(played(listed, unpacked, media_of_list)), whole)
    assert len(whole) == demo_plan.frame_count == sum(end - first for _, first, end in PLACED)
