"""Sound where clips meet: gain, crossfades, tracks of their own; the same in loop, windows and edits."""

import zipfile
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import opentimelineio as otio
import pytest

from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.recipe import recipe_from_json
from idle_shimmer.core.sound.crossfade import Fade
from idle_shimmer.core.sound.samples import SAMPLES_PER_SECOND, Sound, sample_at
from idle_shimmer.media.sound.accent_files import whole_sound
from idle_shimmer.media.write.output_formats import output_format
from idle_shimmer.output.opened_edit import opened_here
from idle_shimmer.output.plan import EditPlan, OutputSettings, PlannedClip, PlannedCut
from idle_shimmer.output.render_edit import render_edit
from tests.support.edits import RATE, SIZE, tone, written_clips

CROSSFADE = 9


@pytest.fixture(scope="module")
def clips(tmp_path_factory: pytest.TempPathFactory) -> list[Path]:
    return written_clips(tmp_path_factory.mktemp("joins"))


def plan(clips: list[Path], *, crossfade: int = CROSSFADE, accent: dict | None = None) -> EditPlan:
    """Two clips, the second 6 dB lower."""
    recipe = recipe_from_json({"format": 2, **({"accent": accent} if accent else {})})
    placed = (
        PlannedClip("quay", clips[0], 15, 40, crossfade=crossfade),
        PlannedClip("sail", clips[1], 20, 45, gain_db=-6.0),
    )
    return EditPlan("Harbour evening", SIZE, RATE, placed, (PlannedCut(Window(4, 4), recipe, 1),))


def edit_sound(plan: EditPlan) -> Sound:
    with opened_here(plan, SIZE) as edit:
        return np.concatenate(list(edit.sound.whole()))


def test_the_two_fades_have_equal_power() -> None:
    fall, rise = (Fade(100, 900, kind).gains(0, 1000).astype(float) for kind in ("fall", "rise"))
    assert np.abs(fall**2 + rise**2 - 1).max() < 1e-6
    assert (fall[:100].min(), rise[:100].max(), fall[900:].max()) == pytest.approx(
        (1, 0, 0), abs=1e-6
    )


def test_a_crossfade_goes_on_with_both_clips_beyond_the_cut(clips: list[Path]) -> None:
    found = edit_sound(plan(clips))
    # The clips themselves, computed from their tones: nothing of the code under test.
    at = np.arange(len(found))
    one = tone(0)[at + sample_at(15, RATE)]
    other = tone(1)[np.clip(at - sample_at(25, RATE) + sample_at(20, RATE), 0, None)] * 10 ** (
        -6 / 20
    )
    first, end = (
        sample_at(25 - CROSSFADE // 2, RATE),
        sample_at(25 + CROSSFADE - CROSSFADE // 2, RATE),
    )
    angle = np.clip((at + 0.5 - first) / (end - first), 0, 1)[:, None] * np.pi / 2
    wanted = one * np.cos(angle) + other * np.sin(angle)
    assert np.abs(found - wanted).max() < 2e-4


def test_a_hard_cut_ends_one_clip_where_the_next_begins(clips: list[Path]) -> None:
    found, cut = edit_sound(plan(clips, crossfade=0)), sample_at(25, RATE)
    assert np.abs(found[cut - 24 : cut + 24]).max() < 0.05
    quiet = found[cut + 4800 : cut + 24_000]
    assert np.abs(quiet).max() == pytest.approx(0.3 * 10 ** (-6 / 20), rel=0.01)


def test_window_and_edit_sound_the_same(clips: list[Path]) -> None:
    made = plan(clips, accent={"sound": "hit", "gain_db": -9.0})
    whole = edit_sound(made)
    with opened_here(made, SIZE) as edit:
        part = np.concatenate(list(edit.sound.window(0, range(-10, 12))))
    first = sample_at(25 - 10, RATE)
    assert np.array_equal(part, whole[first : first + len(part)])


def tracks(file: Path) -> list[tuple[str, Sound]]:
    """The sound tracks of a file, with their names."""
    found = []
    with av.open(str(file)) as container:
        streams = list(container.streams.audio)
    for number, stream in enumerate(streams):
        with av.open(str(file)) as container:
            resampler = av.AudioResampler(format="flt", layout="stereo", rate=SAMPLES_PER_SECOND)
            pieces = [
                piece.to_ndarray().reshape(-1, 2)
                for frame in container.decode(audio=number)
                for piece in resampler.resample(frame)
            ]
        names = {name.lower(): value for name, value in stream.metadata.items()}
        found.append((names.get("title") or names.get("handler_name", ""), np.concatenate(pieces)))
    return found


@pytest.mark.parametrize("form", ["ffv1", "prores", "h264"])
def test_accents_are_a_track_of_their_own_where_that_is_chosen(
    clips: list[Path], tmp_path: Path, form: str
) -> None:
    made = plan(clips, accent={"sound": "hit", "gain_db": -9.0})
    settings = OutputSettings(output_format(form), accents_apart=True)
    file = tmp_path / f"edit{settings.output.suffix}"
    with opened_here(made, SIZE) as edit:
        render_edit(edit, "edit", settings, file, lambda: None)
    (others_name, others), (accents_name, accents) = tracks(file)
    assert (others_name, accents_name) == ("Clips and music", "Accents")
    if form == "h264":
        return
    length = min(len(others), len(accents))
    assert np.abs(others[:length] + accents[:length] - edit_sound(made)[:length]).max() < 2e-4
    assert np.abs(accents[: sample_at(20, RATE)]).max() == 0


def test_without_that_choice_or_where_a_format_holds_one_track_all_is_mixed(
    clips: list[Path], tmp_path: Path
) -> None:
    made = plan(clips, accent={"sound": "hit", "gain_db": -9.0})
    for form, apart in (("ffv1", False), ("vp9", True)):
        settings = OutputSettings(output_format(form), quality="draft", accents_apart=apart)
        file = tmp_path / f"edit{settings.output.suffix}"
        with opened_here(made, SIZE) as edit:
            render_edit(edit, "edit", settings, file, lambda: None)
        assert len(tracks(file)) == 1


def test_a_round_trip_carries_accents_on_tracks_and_plays_as_the_edit_does(
    clips: list[Path], tmp_path: Path
) -> None:
    """Played back by OpenTimelineIO's ranges: the clips' track and the accents' together are the edit's sound."""
    made = plan(clips, accent={"sound": "whoosh", "gain_db": -9.0, "start": -4.0, "end": 3.0})
    settings = OutputSettings(output_format("ffv1"), handles=2)
    with opened_here(made, SIZE) as edit:
        render_edit(edit, "round_trip", settings, tmp_path / "trip.zip", lambda: None)
    with zipfile.ZipFile(tmp_path / "trip.zip") as archive:
        archive.extractall(tmp_path)
    timeline = otio.adapters.read_from_file(str(tmp_path / "Harbour evening.otio"))
    names = [track.name for track in timeline.tracks]
    assert names == ["V1", "A1", "Accents"]
    whole = edit_sound(made)
    played = sum(_played(track, tmp_path, clips, len(whole)) for track in timeline.tracks[1:])
    # Clips that meet in the middle of a sound fade for 5 ms where one plays them.
    assert np.abs(played - whole).max() < 0.02


def _played(track: otio.schema.Track, folder: Path, clips: list[Path], length: int) -> Sound:
    sound = np.zeros((length, 2), np.float32)
    for item in track:
        if isinstance(item, otio.schema.Gap):
            continue
        media = item.media_reference
        name = media.target_url
        file = (
            folder / name if (folder / name).exists() else next(c for c in clips if c.name == name)
        )
        begun = media.available_range.start_time
        first = round((item.source_range.start_time - begun).to_seconds() * SAMPLES_PER_SECOND)
        at = round(item.range_in_parent().start_time.to_seconds() * SAMPLES_PER_SECOND)
        count = round(item.source_range.duration.to_seconds() * SAMPLES_PER_SECOND)
        part = whole_sound(file)[first : first + count]
        sound[at : at + len(part)] = part
    return sound


def test_every_part_of_the_sound_adds_up_to_all_of_it(clips: list[Path]) -> None:
    made = plan(clips, accent={"sound": "riser", "gain_db": -12.0})
    with opened_here(made, SIZE) as edit:
        parts = [
            np.concatenate(list(each.sound.whole()))
            for each in (edit.hearing("clips"), edit.hearing("accents"), edit.hearing("music"))
        ]
        whole = np.concatenate(list(edit.sound.whole()))
    assert np.abs(sum(parts) - whole).max() < 1e-6
    assert Fraction(len(whole), SAMPLES_PER_SECOND) == 50 / RATE
