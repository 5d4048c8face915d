"""Accents in what leaves: on the cut to the sample, the same in loop, windows and whole edits."""

import json
import zipfile
from fractions import Fraction
from pathlib import Path

import numpy as np
import opentimelineio as otio
import pytest
from typer.testing import CliRunner

from idle_shimmer.cli import app
from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.recipe import recipe_from_json
from idle_shimmer.core.sound.levels import peak_db, true_peak_db
from idle_shimmer.core.sound.samples import SAMPLES_PER_SECOND, Sound, sample_at
from idle_shimmer.media.sound.accent_files import length_s, whole_sound
from idle_shimmer.media.sound.sound_parts import read_sound
from idle_shimmer.media.sound.wave_files import wave_bytes
from idle_shimmer.media.write.output_formats import output_format
from idle_shimmer.output.opened_edit import opened_here
from idle_shimmer.output.plan import EditPlan, OutputSettings, PlannedClip, PlannedCut
from idle_shimmer.output.round_trip import write_round_trip
from idle_shimmer.output.sound.laid_music import Music
from tests.support.clips import numbered, write_clip

RATE, BEFORE, AFTER, MARGIN = Fraction(30000, 1001), 6, 9, 2
FILE_S = 0.002
HIT = {"sound": "hit", "gain_db": -9.0, "fade_in": 0}


@pytest.fixture(scope="module")
def silent(tmp_path_factory: pytest.TempPathFactory) -> Path:
    path = tmp_path_factory.mktemp("silent") / "silent.mkv"
    frames = [numbered(n) for n in range(60)]
    return write_clip(path, frames, rate=RATE, codec="ffv1", pixels="bgr0", options={})


def run(*arguments: object) -> object:
    done = CliRunner().invoke(app, [str(each) for each in arguments])
    if done.exception is not None and not isinstance(done.exception, SystemExit):
        raise done.exception
    return done


def render(silent: Path, folder: Path, out: str, accent: dict, *more: str) -> Path:
    recipe = folder / "recipe.json"
    recipe.write_text(json.dumps({"format": 2, "accent": accent}))
    done = run(
        *("render", "--outgoing", silent, "--incoming", silent, "--recipe", recipe),
        *("--before", BEFORE, "--after", AFTER, "--margin", MARGIN, "--incoming-in", 30),
        *("--out", folder / out, *more),
    )
    assert done.exit_code == 0, done.stderr
    return folder / out


def loudest(sound: Sound) -> int:
    return int(np.abs(sound).max(axis=1).argmax())


CUT_SAMPLE = -sample_at(-BEFORE - MARGIN, RATE)


@pytest.mark.parametrize("out", ["sound.wav", "pictures", "transition.mov", "transition.mkv"])
def test_the_loudest_sample_is_that_of_the_cut(silent, tmp_path, out):
    made = render(silent, tmp_path, out, HIT)
    sound = whole_sound(made / "sound.wav" if made.is_dir() else made)
    assert abs(loudest(sound) - CUT_SAMPLE) <= 1
    assert peak_db(sound) == pytest.approx(-9.0, abs=0.5)


@pytest.mark.parametrize("out", ["transition.mp4", "transition.webm"])
def test_in_compressed_sound_it_lies_within_two_milliseconds(silent, tmp_path, out):
    sound = whole_sound(render(silent, tmp_path, out, HIT))
    assert abs(loudest(sound) - CUT_SAMPLE) <= FILE_S * SAMPLES_PER_SECOND


def test_sound_off_leaves_the_accent_out(silent, tmp_path):
    made = render(silent, tmp_path, "pictures", HIT, "--sound", "off")
    assert not (made / "sound.wav").exists()


def test_a_sound_beside_the_recipe_is_used_and_a_missing_one_named(silent, tmp_path):
    t = np.arange(SAMPLES_PER_SECOND // 2) / SAMPLES_PER_SECOND
    own = np.stack([np.exp(-(((t - 0.2) / 0.05) ** 2)) * np.sin(2 * np.pi * 500 * t)] * 2, axis=1)
    (tmp_path / "own.wav").write_bytes(wave_bytes(own.astype(np.float32)))
    made = render(silent, tmp_path, "sound.wav", {"sound": {"clip": "own.wav"}, "gain_db": -6.0})
    assert abs(loudest(whole_sound(made)) - CUT_SAMPLE) <= 1
    recipe = tmp_path / "recipe.json"
    recipe.write_text(json.dumps({"format": 2, "accent": {"sound": {"clip": "gone.wav"}}}))
    done = run(
        *("render", "--outgoing", silent, "--incoming", silent, "--recipe", recipe),
        *("--before", 3, "--after", 3, "--out", tmp_path / "none.wav"),
    )
    assert done.exit_code == 2
    assert "the sound gone.wav cannot be read: choose a file with sound" in done.stderr
    assert not (tmp_path / "none.wav").exists()


def test_a_window_has_the_sound_that_the_whole_edit_has_there(silent, tmp_path):
    recipes = [
        recipe_from_json({"format": 2, "accent": {"sound": "whoosh", "gain_db": -6.0, "end": 3.0}}),
        recipe_from_json({"format": 2, "accent": {**HIT, "start": -3.0}}),
    ]
    cuts = tuple(PlannedCut(Window(5, 8), each, n + 1) for n, each in enumerate(recipes))
    clips = tuple(PlannedClip(f"clip {n}", silent, 15, 45) for n in range(3))
    plan = EditPlan("Harbour evening", (96, 64), RATE, clips, cuts)
    with opened_here(plan, plan.size) as edit:
        whole = np.concatenate(list(edit.sound.whole()))
        for place in range(2):
            offsets = range(-10, 14)
            part = np.concatenate(list(edit.sound.window(place, offsets)))
            first = sample_at(plan.cut_frame(place) + offsets.start, RATE)
            assert np.array_equal(part, whole[first : first + len(part)])
    assert abs(loudest(whole[: sample_at(45, RATE)]) - sample_at(30, RATE)) <= 1


def test_music_is_heard_in_windows_and_is_a_track_of_its_own_in_a_round_trip(silent, tmp_path):
    generator = np.random.default_rng(7)
    noise = (0.2 * generator.standard_normal((2 * SAMPLES_PER_SECOND, 2))).clip(-1, 1)
    file = tmp_path / "quay.wav"
    file.write_bytes(wave_bytes(noise.astype(np.float32)))
    recipe = recipe_from_json({"format": 2, "filters": [{"kind": "gaussian_blur", "radius": 0.02}]})
    clips = tuple(PlannedClip(f"clip {n}", silent, 15, 45) for n in range(2))
    music = Music(file, -0.25, -6.0, 2.0, "Quay song")
    cuts = (PlannedCut(Window(4, 4), recipe, 1),)
    plan = EditPlan("Harbour evening", (192, 96), RATE, clips, cuts, music=music)
    with opened_here(plan, plan.size) as edit:
        part = np.concatenate(list(edit.sound.window(0, range(-10, 10))))
        first = sample_at(20, RATE) + SAMPLES_PER_SECOND // 4
        wanted = whole_sound(file)[first : first + len(part)] * 10 ** (-6 / 20)
        assert np.abs(part - wanted).max() < 1e-4
        settings = OutputSettings(output_format("ffv1"))
        write_round_trip(tmp_path / "trip.zip", edit, settings, lambda: None)
    with zipfile.ZipFile(tmp_path / "trip.zip") as archive:
        text = archive.read("Harbour evening.otio").decode()
        assert b"Quay song.wav" in archive.read("Contents.txt")
        window = next(name for name in archive.namelist() if name.startswith("media/"))
        (tmp_path / "window.mkv").write_bytes(archive.read(window))
    timeline = otio.adapters.read_from_string(text, "otio_json")
    assert [(each.name, each.kind) for each in timeline.tracks] == [
        ("V1", "Video"),
        ("Music", "Audio"),
    ]
    (clip,) = timeline.tracks[1]
    assert clip.media_reference.target_url == "Quay song.wav"
    shown = clip.source_range
    assert (shown.start_time.value, shown.duration.value) == (7, 52)


def test_loudness_is_judged_and_its_fix_keeps_to_the_limit(silent, tmp_path):
    def loudness(accent: dict) -> dict:
        recipe = tmp_path / "recipe.json"
        recipe.write_text(json.dumps({"format": 2, "accent": accent}))
        done = run(
            *("check", "--outgoing", silent, "--incoming", silent, "--recipe", recipe, "--json"),
            *("--before", BEFORE, "--after", AFTER, "--incoming-in", 30),
        )
        (found,) = [each for each in json.loads(done.stdout)["checks"] if each["id"] == "loudness"]
        return found

    quiet = loudness(HIT)
    assert quiet["status"] == "ok"
    assert quiet["value"] == pytest.approx(-9.0, abs=0.3)
    loud = loudness({**HIT, "gain_db": 3.0})
    assert (loud["status"], loud["unit"]) == ("failed", "dBTP")
    (change,) = loud["fix"]["patch"]
    assert change["path"] == "/accent/gain_db"
    fixed = loudness({**HIT, "gain_db": change["value"]})
    assert fixed["status"] == "ok"
    assert fixed["value"] > -1.3


def test_beats_are_printed(tmp_path):
    step = SAMPLES_PER_SECOND // 2
    sound = np.zeros((step * 20, 2), np.float32)
    for n in range(20):
        sound[n * step + 1000 : n * step + 1400] = 0.5
    (tmp_path / "clicks.wav").write_bytes(wave_bytes(sound))
    found = json.loads(run("beats", tmp_path / "clicks.wav", "--json").stdout)
    assert found["bpm"] == pytest.approx(120, rel=0.01)
    assert found["offset_s"] == pytest.approx(1000 / SAMPLES_PER_SECOND, abs=0.02)
    assert len(found["beats_s"]) == 20
    (tmp_path / "text.wav").write_text("no sound" * 99)
    refused = run("beats", tmp_path / "text.wav")
    assert refused.exit_code == 2
    assert "text.wav" in refused.stderr


def test_the_length_of_sound_is_known(silent, tmp_path):
    made = render(silent, tmp_path, "sound.wav", HIT)
    frames = BEFORE + AFTER + 2 * MARGIN
    assert float(length_s(made)) == pytest.approx(float(frames / RATE), abs=1e-4)
    assert true_peak_db(read_sound(made, Fraction(0), Fraction(1, 100))) < -60
