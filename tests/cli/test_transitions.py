"""The command line."""

import json
import subprocess
import sys
from fractions import Fraction
from pathlib import Path

import cv2
import numpy as np
import pytest
from typer.testing import CliRunner

from idle_shimmer.cli import app
from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.picture.output import output_codes
from idle_shimmer.core.recipe import recipe_from_json
from idle_shimmer.media.read.index import read_facts
from idle_shimmer.media.read.reader import VideoReader
from tests.core.test_recipe import FOUR_ROLLS
from tests.support.clips import number_in, numbered, write_clip
from tests.support.frames import render_picture

COMMAND = Path(sys.executable).parent / "idle-shimmer"
FULL_AFTER_BYTES = 4000


def run_alone(*arguments: object) -> subprocess.CompletedProcess[str]:
    """The command as a process of its own, as a script calls it."""
    return subprocess.run([COMMAND, *map(str, arguments)], capture_output=True, text=True)


def run(*arguments: object) -> subprocess.CompletedProcess[str]:
    """The command in this process, which saves the seconds that it takes to start."""
    given = [str(each) for each in arguments]
    done = CliRunner().invoke(app, given)
    if done.exception is not None and not isinstance(done.exception, SystemExit):
        raise done.exception
    return subprocess.CompletedProcess(given, done.exit_code, done.stdout, done.stderr)


@pytest.fixture(scope="module")
def clips(tmp_path_factory: pytest.TempPathFactory) -> tuple[Path, Path]:
    folder = tmp_path_factory.mktemp("clips")
    pair = [[numbered(n + 1000 * side) for n in range(40)] for side in (0, 1)]
    return tuple(
        write_clip(
            folder / f"{name}.mkv",
            pictures,
            rate=Fraction(30),
            codec="ffv1",
            pixels="bgr0",
            options={},
        )
        for name, pictures in zip(("one", "other"), pair, strict=True)
    )


@pytest.fixture
def recipe(tmp_path: Path) -> Path:
    path = tmp_path / "recipe.json"
    path.write_text(json.dumps(FOUR_ROLLS))
    return path


def options(clips: tuple[Path, Path], recipe: Path, out: Path) -> list[object]:
    return [
        "--outgoing",
        clips[0],
        "--incoming",
        clips[1],
        "--recipe",
        recipe,
        "--out",
        out,
        "--outgoing-out",
        30,
        "--incoming-in",
        12,
    ]


def test_a_folder_gets_pictures_and_an_index(
    clips: tuple[Path, Path], recipe: Path, tmp_path: Path
) -> None:
    done = run_alone("render", *options(clips, recipe, tmp_path / "out"), "--margin", 2)
    assert done.returncode == 0, done.stderr
    index = json.loads((tmp_path / "out" / "index.json").read_text())
    assert (index["rate"], index["size"]) == ("30", [192, 96])
    assert [each["offset"] for each in index["frames"]] == list(range(-7, 7))
    assert index["frames"][0]["file"] == "frame_0000.png"
    pictures = [
        cv2.imread(str(tmp_path / "out" / each["file"]))[..., ::-1] for each in index["frames"]
    ]
    for place, number in ((0, 23), (1, 24), (12, 1017), (13, 1018)):
        assert np.array_equal(pictures[place], numbered(number))
    expected = render_picture(
        recipe_from_json(FOUR_ROLLS), Window(5, 5), 0, numbered(30), numbered(1012)
    )
    assert np.array_equal(pictures[7], output_codes(expected, 8, 0))


def test_a_lossless_file_holds_the_same_pictures(
    clips: tuple[Path, Path], recipe: Path, tmp_path: Path
) -> None:
    done = run("render", *options(clips, recipe, tmp_path / "out.mkv"), "--before", 3, "--after", 4)
    assert done.returncode == 0, done.stderr
    with VideoReader(tmp_path / "out.mkv") as reader:
        assert reader.facts.frame_count == 3 + 4 + 2
        assert np.array_equal(reader.read(0), numbered(26))
        assert np.array_equal(reader.read(8), numbered(1016))


@pytest.mark.parametrize("ending", [".mp4", ".mov", ".webm"])
def test_video_files_have_the_frames_and_the_rate(
    ending: str, clips: tuple[Path, Path], recipe: Path, tmp_path: Path
) -> None:
    path = tmp_path / f"out{ending}"
    done = run("render", *options(clips, recipe, path), "--size", "96x48")
    assert done.returncode == 0, done.stderr
    facts, _ = read_facts(path)
    assert (facts.frame_count, facts.rate, facts.width, facts.height) == (12, 30, 96, 48)
    with VideoReader(path) as reader:
        assert number_in(reader.read(0)) == 24


@pytest.mark.parametrize(
    ("change", "message"),
    [
        ({"--incoming": "nowhere.mp4"}, "there is no file"),
        ({"--recipe": "nowhere.json"}, "--recipe: "),
        ({"--outgoing-out": 41}, "--outgoing-out: one.mkv has 40 frames"),
        (
            {"--outgoing-out": 40, "--before": 6},
            "mix.span: The window needs 2 spare frames after the out point of",
        ),
        ({"--before": 60}, "before: the window needs 60 frames and 1 of margin before the cut"),
        ({"--before": 0}, "window.before: each side of a window has 1 to"),
        ({"--size": "wide"}, "--size: 'wide' is not a frame size"),
        ({"--rate": "fast"}, "rate: 'fast' is not a frame rate"),
        ({"--margin": -1}, "--margin: -1 is less than 0"),
        ({"--out": "nowhere/out.mp4"}, "out: there is no folder"),
        ({"--out": "out.xyz"}, "out: cannot write '.xyz' files"),
    ],
)
def test_bad_input_is_one_clear_line_and_nothing_is_written(
    change: dict[str, object], message: str, clips: tuple[Path, Path], recipe: Path, tmp_path: Path
) -> None:
    out = tmp_path / "made" / "out.mp4"
    out.parent.mkdir()
    given = options(clips, recipe, out)
    arguments = dict(zip(given[::2], given[1::2], strict=True)) | change
    done = run("render", *[part for pair in arguments.items() for part in pair])
    assert done.returncode == 2
    assert done.stderr.startswith("idle-shimmer: ")
    assert done.stderr.count("\n") == 1
    assert message in done.stderr
    assert not list(out.parent.iterdir())


def test_a_wrong_recipe_and_a_junk_clip_are_named(clips: tuple[Path, Path], tmp_path: Path) -> None:
    wrong = tmp_path / "wrong.json"
    wrong.write_text('{"filters": [{"kind": "roll", "z": 3}]}')
    done = run_alone("render", *options(clips, wrong, tmp_path / "out.mp4"))
    assert (done.returncode, done.stderr) == (
        2,
        "idle-shimmer: filters[0].z: unknown field: remove it or correct its name\n",
    )
    junk = tmp_path / "junk.mp4"
    junk.write_bytes(b"junk" * 1000)
    done = run_alone("render", *options((junk, clips[1]), wrong, tmp_path / "out.mp4"))
    assert done.returncode == 2
    assert "filters[0].z" in done.stderr


def test_the_catalogue_is_json() -> None:
    listed = json.loads(run("filters", "--json").stdout)
    assert {"gaussian_blur", "roll"} <= {each["kind"] for each in listed["filters"]}


def test_check_reports_and_exits_1_where_a_check_failed(
    clips: tuple[Path, Path], recipe: Path, tmp_path: Path
) -> None:
    given = options(clips, recipe, tmp_path / "unused")
    clean = run("check", *given, "--json")
    assert clean.returncode == 0, clean.stderr
    listed = json.loads(clean.stdout)["checks"]
    assert listed[0]["id"] == "landing"
    assert {each["id"] for each in listed} >= {"rest", "edges", "flashes"}
    off = {
        **FOUR_ROLLS,
        "filters": [{**FOUR_ROLLS["filters"][0], "y": {"kind": "travel", "amount": -4.25}}],
    }  # type: ignore[dict-item,index]
    recipe.write_text(json.dumps(off))
    broken = run("check", *given, "--json")
    assert broken.returncode == 1
    landing = json.loads(broken.stdout)["checks"][0]
    assert (landing["status"], landing["value"], landing["unit"]) == ("failed", 24, "px")
    assert landing["fix"]["patch"][0]["value"] == -4
    words = run("check", *given)
    assert words.stdout.startswith("failed   landing")
    assert not (tmp_path / "unused").exists()


def test_missing_spare_frames_fail_the_check_and_the_render(
    clips: tuple[Path, Path], recipe: Path, tmp_path: Path
) -> None:
    given = [*options(clips, recipe, tmp_path / "out")[:-1], 1]
    checked = run("check", *given, "--json")
    assert checked.returncode == 1
    spare = next(c for c in json.loads(checked.stdout)["checks"] if c["id"] == "spare_frames")
    assert (spare["status"], spare["value"]) == ("failed", 1)
    assert run("render", *given, "--margin", 0).returncode == 2


def test_the_recipe_book_is_listed_and_each_recipe_renders_from_its_json(
    clips: tuple[Path, Path], tmp_path: Path
) -> None:
    listed = json.loads(run("recipes", "--json").stdout)
    assert len(listed) >= 40
    entry = next(each for each in listed if each["slug"] == "whip-left")
    assert entry["name"] == "Whip left"
    assert entry["needs"] == {"outgoing": 0, "incoming": 0}
    file = tmp_path / "whip.json"
    file.write_text(run("recipes", "whip-left").stdout)
    done = run("render", *options(clips, file, tmp_path / "out"))
    assert done.returncode == 0, done.stderr
    unknown = run("recipes", "whip-back")
    assert unknown.returncode == 2
    assert unknown.stderr.startswith("idle-shimmer: NAME: there is no recipe 'whip-back'")


def test_cuts_are_the_first_frames_of_new_shots(tmp_path: Path) -> None:
    rng = np.random.default_rng(3)
    looks = [rng.integers(0, 255, (12, 24, 3)).astype(np.uint8) for _ in range(3)]
    pictures = [cv2.resize(look, (192, 96)) for look in looks for _ in range(20)]
    file = write_clip(tmp_path / "edit.mp4", pictures)
    done = run("cuts", file, "--json")
    assert done.returncode == 0, done.stderr
    found = json.loads(done.stdout)["cuts"]
    assert [each["frame"] for each in found] == [20, 40]
    assert all(0.5 <= each["confidence"] <= 1 for each in found)
    junk = tmp_path / "junk.mp4"
    junk.write_bytes(b"junk" * 99)
    refused = run("cuts", junk)
    assert refused.returncode == 2
    assert "junk.mp4 is not a video" in refused.stderr


def test_a_recipe_of_format_1_is_converted(tmp_path: Path) -> None:
    old = tmp_path / "old.json"
    scale = {"kind": "swell", "peak": 2.0}
    filters = [{"id": "zoom", "kind": "transform", "scale": scale}]
    old.write_text(json.dumps({"version": 1, "name": "Quay", "passes": filters}))
    done = run("convert", old)
    assert done.returncode == 0
    made = json.loads(done.stdout)
    assert made["format"] == 2
    assert made["filters"][0]["scale"] == {**scale, "interpolation": "linear"}
    assert recipe_from_json(made) == recipe_from_json(old.read_text())
    old.write_text(json.dumps({"version": 1, "passes": [{"kind": "sparkle"}]}))
    refused = run("convert", old)
    assert refused.returncode != 0
    assert "sparkle" in refused.stderr


def test_a_recipe_is_adjusted_as_a_whole(tmp_path: Path) -> None:
    out = tmp_path / "adjusted.json"
    options = ["--turn", "90", "--strength", "200%", "--duration", "20", "--snap", "0.9"]
    assert run("adjust", "whip-left", *options, "--out", out).returncode == 0
    made = recipe_from_json(out.read_text())
    assert made.filters[0].y.amount == 2  # type: ignore[attr-defined]
    assert made.window is not None
    assert (made.window.before, made.window.after) == (10, 10)
    eased = run("adjust", out, "--flip", "vertical", "--easing", "linear(0, 1.2 60%, 1)")
    roll = json.loads(eased.stdout)["filters"][0]
    assert (roll["y"]["amount"], roll["y"]["easing"]) == (-2, "linear(0, 1.2 60%, 1)")
    upright = run("adjust", "torn-lines", "--turn", "180")
    assert upright.returncode == 0
    assert "Line jitter cannot be turned" in upright.stderr
    for wrong in (
        ["--turn", "45"],
        ["--strength", "much"],
        ["--duration", "1"],
        ["--easing", "linear(0)"],
        ["--easing", '{"steepness": 7}'],
    ):
        refused = run("adjust", "whip-left", *wrong)
        assert (refused.returncode, wrong[0] in refused.stderr) == (2, True)
        assert len(refused.stderr.splitlines()) == 1


@pytest.mark.parametrize("name", ["out", "out.mkv", "out.mp4", "out.webm"])
def test_a_full_disk_is_one_line_and_leaves_nothing(
    name: str, clips: tuple[Path, Path], recipe: Path, tmp_path: Path
) -> None:
    """Stood in for by a limit on the size of files, which fails the same writes."""
    folder = tmp_path / "made"
    folder.mkdir()
    arguments = options(clips, recipe, folder / name)
    program = (
        "import resource, sys;"
        f"resource.setrlimit(resource.RLIMIT_FSIZE, ({FULL_AFTER_BYTES}, {FULL_AFTER_BYTES}));"
        "from idle_shimmer.cli import main; main()"
    )
    done = subprocess.run(
        [sys.executable, "-c", program, "render", *map(str, arguments)],
        capture_output=True,
        text=True,
    )
    assert done.returncode == 2, done.stderr
    assert done.stderr.startswith("idle-shimmer: ")
    assert done.stderr.count("\n") == 1
    assert "disk" in done.stderr
    assert not list(folder.iterdir())


def test_a_folder_with_other_files_is_refused_and_kept(
    clips: tuple[Path, Path], recipe: Path, tmp_path: Path
) -> None:
    out = tmp_path / "out"
    out.mkdir()
    (out / "frame_0099.png").write_bytes(b"of another program")
    refused = run("render", *options(clips, recipe, out))
    assert refused.returncode == 2
    assert "holds frame_0099.png, which is not part of an earlier render" in refused.stderr
    assert [each.name for each in out.iterdir()] == ["frame_0099.png"]
    (out / "frame_0099.png").unlink()
    for margin, count in ((3, 16), (1, 12)):
        done = run("render", *options(clips, recipe, out), "--margin", margin)
        assert done.returncode == 0, done.stderr
        # A render takes the place of the earlier one, none of whose frames stay.
        assert len(list(out.iterdir())) == count + 1
    (out / "notes.txt").write_text("mine")
    assert run("render", *options(clips, recipe, out)).returncode == 2
    assert len(list(out.iterdir())) == 14


@pytest.mark.parametrize("arguments", [["--help"], ["recipes"], ["render", "--help"]])
def test_what_prints_text_starts_without_the_core(arguments: list[str]) -> None:
    """Nothing heavy is imported before it is needed: each of these takes about a second by itself."""
    code = (
        "import sys; from typer.testing import CliRunner; from idle_shimmer.cli import app;"
        f"done = CliRunner().invoke(app, {arguments}); assert done.exit_code == 0, done.output;"
        "print([each for each in ('numba', 'numpy', 'cv2', 'av') if each in sys.modules])"
    )
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert done.stdout.strip() == "[]"
