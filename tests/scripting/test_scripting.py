"""Transitions from Python, and every example of docs/guide/scripts.md."""

import re
import shlex
import wave
from fractions import Fraction
from pathlib import Path

import numpy as np
import pytest
from typer.testing import CliRunner

import idle_shimmer
from idle_shimmer.cli import app
from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.core.recipe import recipe_from_json
from idle_shimmer.interchange.timelines import EditDocument, TimelineClip, TimelineCut, otio_text
from tests.conftest import ROOT
from tests.support.clips import numbered, write_clip
from tests.support.frames import render_frame

GUIDE = (ROOT / "docs/guide/scripts.md").read_text(encoding="utf-8")
FILES = dict(re.findall(r"```json (\S+)\n(.*?)```", GUIDE, re.DOTALL))
BLOCKS = re.findall(r"```(sh|python)\n(.*?)```", GUIDE, re.DOTALL)
NAMES = ("dusk-water.mp4", "hoisted-sail.mp4")
BLUR = {"filters": [{"kind": "gaussian_blur", "radius": {"kind": "swell", "peak": 0.05}}]}


@pytest.fixture(scope="module")
def folder(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The two clips of the examples, a timeline of them, music, and the files that the guide prints."""
    made = tmp_path_factory.mktemp("scripts")
    for name, text in FILES.items():
        (made / name).write_text(text, encoding="utf-8")
    for k, name in enumerate(NAMES):
        write_clip(made / name, [numbered(n + 1000 * k) for n in range(50)], tone=True)
    write_music(made / "quay-song.wav")
    shots = [TimelineClip(name, 10, 40) for name in NAMES]
    document = EditDocument("Evening", Fraction(25), (192, 96), shots, [TimelineCut(1, 1)])
    (made / "evening.otio").write_text(otio_text(document), encoding="utf-8")
    return made


def write_music(path: Path) -> None:
    """Ten seconds of clicks at 120 BPM."""
    sound = np.zeros(10 * 48_000, np.int16)
    tone = np.sin(np.arange(960) / 48_000 * 2 * np.pi * 1000) * np.linspace(20_000, 0, 960)
    for first in range(0, len(sound), 24_000):
        sound[first : first + 960] = tone.astype(np.int16)
    with wave.open(str(path), "wb") as file:
        file.setnchannels(1)
        file.setsampwidth(2)
        file.setframerate(48_000)
        file.writeframes(sound.tobytes())


@pytest.mark.parametrize("number", range(len(BLOCKS)))
def test_an_example_of_the_guide_runs(
    number: int, folder: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.chdir(folder)
    kind, text = BLOCKS[number]
    if kind == "python":
        # The guide's own text.
        exec(compile(text, "scripts.md", "exec"), {})  # noqa: S102
        return
    for line in text.splitlines():
        command, _, target = line.partition(" > ")
        words = shlex.split(command)
        assert words[0] == "idle-shimmer"
        done = CliRunner().invoke(app, words[1:])
        assert done.exit_code == (1 if words[1] == "check" and "failed" in done.stdout else 0), (
            done.output
        )
        if target:
            (folder / target).write_text(done.stdout, encoding="utf-8")
        elif "--out" in words:
            assert (folder / words[words.index("--out") + 1]).exists()


def arrays(first: int, dtype: type = np.uint8) -> list[np.ndarray]:
    rng = np.random.default_rng(first)
    top = np.iinfo(dtype).max
    return [rng.integers(0, top, (48, 64, 3), dtype, endpoint=True) for _ in range(20)]


def test_arrays_become_the_frames_that_the_core_renders() -> None:
    one, other = arrays(1), arrays(2)
    recipe = recipe_from_json({**BLUR, "light": "display"})
    found = idle_shimmer.render_transition(one, other, recipe, window=(4, 4), margin=1)
    assert list(found.offsets) == list(range(-5, 5))
    assert len(found) == 10
    assert found.sound is None
    frames = list(found)
    np.testing.assert_array_equal(frames[0], one[15])
    np.testing.assert_array_equal(frames[-1], other[4])
    expected = render_frame(recipe, Window(4, 4), 1, None, other[1])
    # The output is dithered: one code at most, and none on average.
    apart = frames[6].astype(int) - expected
    assert np.abs(apart).max() <= 1
    assert abs(apart.mean()) < 0.05


def test_deep_arrays_stay_deep() -> None:
    found = idle_shimmer.render_transition(
        arrays(1, np.uint16), arrays(2, np.uint16), BLUR, window=(2, 2)
    )
    assert {frame.dtype for frame in found} == {np.dtype(np.uint16)}


def test_clips_give_their_sound(folder: Path) -> None:
    with (
        idle_shimmer.open_clip(folder / NAMES[0]) as one,
        idle_shimmer.open_clip(folder / NAMES[1]) as other,
    ):
        assert (len(one), one.size, one.rate) == (50, (192, 96), 25)
        np.testing.assert_array_equal(one[-1], one[49])
        found = idle_shimmer.render_transition(one, other, BLUR, window=(3, 5), margin=2)
        assert found.sound is not None
        assert found.sound.shape == (12 * 1920, 2)
        assert np.abs(found.sound).max() > 0.05


@pytest.mark.parametrize(
    ("change", "message"),
    [
        ({"recipe": "no-such"}, "there is no recipe 'no-such'"),
        ({"recipe": {**BLUR}, "window": None}, "the recipe suggests no window"),
        ({"window": (30, 4)}, "the window needs 30 frames before the cut"),
        ({"incoming": [np.zeros((10, 10, 3), np.uint8)] * 20}, "open them with one size"),
        ({"outgoing": [np.zeros((48, 64), np.uint8)] * 20}, "give uint8 or uint16 arrays"),
    ],
)
def test_what_does_not_fit_says_what_to_do(change: dict, message: str) -> None:
    given = {"outgoing": arrays(1), "incoming": arrays(2), "recipe": BLUR, "window": (4, 4)}
    with pytest.raises(InvalidValue, match=re.escape(message)):
        idle_shimmer.render_transition(**{**given, **change})
