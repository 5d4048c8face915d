"""A recipe on the cuts of a timeline, without a server: the command, and what it writes."""

import zipfile
from pathlib import Path

import numpy as np
import opentimelineio as otio
import pytest
from numpy.typing import NDArray
from typer.testing import CliRunner

from idle_shimmer.cli import app
from idle_shimmer.core.framing import Framing
from idle_shimmer.core.recipe import Recipe
from idle_shimmer.interchange.decision_lists import edl_text
from idle_shimmer.interchange.guarded import read_edit
from idle_shimmer.interchange.kept_clips import KeptClip
from idle_shimmer.interchange.timelines import EditDocument, TimelineClip, TimelineCut, otio_text
from idle_shimmer.media.read.reader import VideoReader
from idle_shimmer.media.write.writer import frame_of, writing
from idle_shimmer.output.baking import Baking, bake
from tests.output.test_round_trip import frames_of, media_of_timeline, played
from tests.support.edits import RATE, SIZE, written_clips


@pytest.fixture(scope="module")
def folder(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """Four clips below a folder, and two timelines of them."""
    made = tmp_path_factory.mktemp("bake")
    (made / "media" / "reel 1").mkdir(parents=True)
    paths = written_clips(made / "media" / "reel 1")
    shots = [TimelineClip(path.name, 15, 65) for path in paths]
    document = EditDocument("Harbour", RATE, SIZE, shots, [TimelineCut(1, 1)] * 3)
    (made / "cut.otio").write_text(otio_text(document), encoding="utf-8")
    (made / "cut.edl").write_text(edl_text(document), encoding="utf-8")
    return made


def run(*arguments: object) -> tuple[int, list[str], str]:
    done = CliRunner().invoke(app, ["bake", *map(str, arguments)])
    return done.exit_code, done.stdout.splitlines(), done.stderr


def baked(folder: Path, out: Path, *more: object, timeline: str = "cut.otio") -> list[str]:
    """Bake without loss; return the report."""
    given = [folder / timeline, "--media", folder / "media", "--format", "ffv1", "--out", out]
    code, report, problem = run(*given, *more)
    assert code == 0, problem
    return report


def shown(zipped: Path, folder: Path, into: Path) -> list[NDArray]:
    """Every frame of the timeline in a ZIP."""
    into.mkdir()
    with zipfile.ZipFile(zipped) as archive:
        archive.extractall(into)
    for path in (folder / "media" / "reel 1").iterdir():
        (into / path.name).symlink_to(path)
    timeline = otio.adapters.read_from_file(str(next(into.glob("*.otio"))))
    return list(played(timeline, into, media_of_timeline))


def test_frames_count_from_the_timecode_that_the_media_begins_with(tmp_path: Path) -> None:
    for name in ("one", "two"):
        with writing(tmp_path / f"{name}.mov", SIZE, RATE, timecode="10:37:12:00") as writer:
            for n in range(60):
                writer.write(frame_of(np.full((SIZE[1], SIZE[0], 3), n, np.uint8)))
        # A sound beside it is no picture, however early its name comes.
        (tmp_path / f"{name}.aac").write_bytes(b"")
    text = (
        "TITLE: Harbour\n"
        "001  ONE  V  C  10:37:13:00 10:37:14:00 01:00:00:00 01:00:01:00\n"
        "* FROM CLIP NAME: ONE\n"
        "002  TWO  V  C  10:37:12:10 10:37:13:10 01:00:01:00 01:00:02:00\n"
        "* FROM CLIP NAME: TWO\n"
    )
    found = bake(read_edit(text, "x.edl", RATE), tmp_path, Baking(Recipe()))
    assert [(each.in_frame, each.out_frame) for each in found.plan.placed] == [(25, 50), (10, 35)]
    assert found.report == []


def test_what_our_own_timelines_say_of_clips_is_kept(folder: Path) -> None:
    kept = KeptClip(framing=Framing(scale=1.2), muted=True, gain_db=-3.0, crossfade=4)
    paths = sorted((folder / "media" / "reel 1").iterdir())[:2]
    shots = [TimelineClip(path.name, 15, 65, kept=kept) for path in paths]
    text = otio_text(EditDocument("Harbour", RATE, SIZE, shots, [TimelineCut(1, 1)]))
    found = bake(read_edit(text, "x.otio", RATE), folder / "media", Baking(Recipe()))
    for placed in found.plan.placed:
        assert (placed.framing.scale, placed.muted) == (1.2, True)
        assert (placed.gain_db, placed.crossfade) == (-3.0, 4)


@pytest.mark.parametrize("timeline", ["cut.otio", "cut.edl"])
def test_a_recipe_lies_on_the_chosen_cuts_and_nowhere_else(
    folder: Path, tmp_path: Path, timeline: str
) -> None:
    out = tmp_path / "baked.zip"
    report = baked(
        folder,
        out,
        "--recipe",
        "blurred-cut-vertical",
        "--cuts",
        "1,3",
        "--handles",
        2,
        timeline=timeline,
    )
    assert report == []
    frames = shown(out, folder, tmp_path / "in")
    originals = [
        frame
        for path in sorted((folder / "media" / "reel 1").iterdir())
        for frame in list(frames_of(path))[15:65]
    ]
    assert len(frames) == len(originals) == 200
    changed = [not np.array_equal(*pair) for pair in zip(frames, originals, strict=True)]
    near = [n for n, is_changed in enumerate(changed) if is_changed]
    assert 45 <= min(near) < 50 <= max(n for n in near if n < 100) < 58
    assert not any(changed[90:110])
    assert {150, 149} <= set(near)


def test_alternate_cuts_are_flipped(folder: Path, tmp_path: Path) -> None:
    out = tmp_path / "baked.zip"
    roll = tmp_path / "roll.json"
    roll.write_text(
        '{"window": {"before": 4, "after": 4},'
        ' "filters": [{"kind": "roll", "x": {"kind": "travel", "amount": 1}}]}'
    )
    baked(folder, out, "--recipe", roll, "--flip-alternate", "horizontal", "--handles", 0)
    with zipfile.ZipFile(out) as archive:
        archive.extractall(tmp_path / "in")
    paths = sorted((tmp_path / "in" / "media").iterdir())
    assert len(paths) == 3
    moves = []
    for path in paths:
        with VideoReader(path) as reader:
            row = reader.read(3)[-1, :, 0].astype(int)
        name = folder / "media" / "reel 1" / f"clip {paths.index(path)}.mkv"
        with VideoReader(name) as reader:
            still = reader.read(64)[-1, :, 0].astype(int)
        apart = [np.abs(np.roll(still, by) - row).mean() for by in range(SIZE[0])]
        moves.append(int(np.argmin(apart)))
    # Just ahead of the cut a roll has gone a little less than half of the frame, one way or the other.
    assert moves[0] < SIZE[0] / 2 < moves[1]
    assert moves[2] < SIZE[0] / 2


def test_what_could_not_be_done_is_a_line_each(folder: Path, tmp_path: Path) -> None:
    wide = tmp_path / "wide.json"
    wide.write_text('{"mix": {"kind": "dissolve"}, "window": {"before": 60, "after": 20}}')
    report = baked(folder, tmp_path / "baked.zip", "--recipe", wide)
    assert report[0] == (
        "cut 1: the window is 50 | 20 frames, not 60 | 20: the clips are too short"
    )
    held = (
        "cut 1: The window needs 50 spare frames before the in point of clip 1.mkv; it has 15. The"
        " nearest frame is held."
    )
    assert held in report or any("spare frames" in line and "is held" in line for line in report)


@pytest.mark.parametrize(
    ("change", "message"),
    [
        ({"--recipe": "no-such"}, "there is no recipe 'no-such'"),
        ({"--media": "reels"}, "there is no folder reels"),
        ({"--cuts": "7"}, "the timeline has 3 cuts, so 7 is not one of them"),
        ({"--cuts": "3-1"}, "is not a list of cuts: write it as 1,3-5"),
        ({"--format": "png8"}, "a round trip needs a video format"),
        ({"--flip-alternate": "sideways"}, "give one of horizontal, vertical"),
        ({"--handles": 101}, "101 is not 0 to 100 frames"),
        ({"--out": "x.mov"}, "x.mov does not end in .zip"),
    ],
)
def test_a_wrong_request_is_one_line_and_leaves_nothing(
    folder: Path, tmp_path: Path, change: dict[str, object], message: str
) -> None:
    given: dict[str, object] = {
        "--media": folder / "media",
        "--recipe": "blurred-cut-vertical",
        "--out": tmp_path / "out.zip",
        **change,
    }
    code, _, problem = run(folder / "cut.otio", *(each for pair in given.items() for each in pair))
    assert code == 2
    assert problem.count("\n") == 1
    assert message in problem
    assert list(tmp_path.iterdir()) == []


def test_missing_media_is_named(folder: Path, tmp_path: Path) -> None:
    (tmp_path / "empty").mkdir()
    code, _, problem = run(
        folder / "cut.edl",
        "--media",
        tmp_path / "empty",
        "--recipe",
        "blurred-cut-vertical",
        "--out",
        tmp_path / "a.zip",
    )
    assert (
        code,
        "lacks clip 0.mkv, clip 1.mkv, clip 2.mkv, clip 3.mkv: put them there" in problem,
    ) == (2, True)
