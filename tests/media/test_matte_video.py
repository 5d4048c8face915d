"""Mattes stored as video come back code for code, in any order, where they belong."""

from fractions import Fraction
from pathlib import Path

import av
import cv2
import numpy as np

from idle_shimmer.media.matte_video import MatteVideo, covering, subject_of, write_matte_video
from idle_shimmer.media.read.rate_conversion import RateConvertedClip
from tests.support.clips import numbered, write_clip

SIZE = (96, 64)


def pictures(count: int) -> list[np.ndarray]:
    rng = np.random.default_rng(3)
    return [rng.integers(0, 256, (SIZE[1], SIZE[0]), np.uint8) for _ in range(count)]


def test_every_code_comes_back_in_any_order(tmp_path: Path) -> None:
    made = pictures(40)
    write_matte_video(tmp_path / "a.mkv", made)
    read = MatteVideo(tmp_path / "a.mkv", 100, SIZE)
    for number in (0, 1, 2, 39, 5, 4, 3, 20):
        found = np.rint(read.alpha(100 + number) * 255).astype(np.uint8)
        np.testing.assert_array_equal(found, made[number])
    # Outside its pictures the nearest one is shown.
    np.testing.assert_array_equal(read.alpha(0), read.alpha(100))
    np.testing.assert_array_equal(read.alpha(900), read.alpha(139))
    read.close()
    np.testing.assert_array_equal(read.alpha(101), made[1].astype(np.float32) / 255)


def test_any_other_program_reads_the_same(tmp_path: Path) -> None:
    """Decoded by PyAV alone."""
    made = pictures(3)
    write_matte_video(tmp_path / "a.mkv", made)
    with av.open(str(tmp_path / "a.mkv")) as container:
        assert container.streams.video[0].codec_context.name == "ffv1"
        found = [frame.to_ndarray(format="gray") for frame in container.decode(video=0)]
    np.testing.assert_array_equal(found, made)


def test_a_matte_covers_the_frame_as_its_clip_does(tmp_path: Path) -> None:
    """A white disc in a clip of another shape and rate lies where the matte of that disc lies."""
    disc = np.zeros((120, 200), np.uint8)
    cv2.circle(disc, (60, 40), 25, 255, -1)
    write_clip(
        tmp_path / "clip.mp4", [np.repeat(disc[..., None], 3, axis=2)] * 6, rate=Fraction(50)
    )
    frame = (128, 96)
    clip = RateConvertedClip.open(tmp_path / "clip.mp4", frame, Fraction(25))
    write_matte_video(tmp_path / "m.mkv", [disc] * 6)
    alpha = subject_of(clip, MatteVideo(tmp_path / "m.mkv", 0, frame))(1)
    shown = clip.frame(1)[..., 0] / 255
    assert alpha.shape == shown.shape
    assert np.abs(alpha - shown).mean() < 0.02
    clip.close()


def test_the_frame_at_the_edits_rate_has_the_matte_of_its_picture(tmp_path: Path) -> None:
    write_clip(tmp_path / "clip.mp4", [numbered(n) for n in range(20)], rate=Fraction(50))
    clip = RateConvertedClip.open(tmp_path / "clip.mp4", None, Fraction(25))
    write_matte_video(tmp_path / "m.mkv", [np.full((8, 8), n, np.uint8) for n in range(20)])
    subject = subject_of(clip, MatteVideo(tmp_path / "m.mkv", 0, (8, 8)))
    for number in (0, 3, 7):
        assert round(float(subject(number)[0, 0]) * 255) == clip.picture_number(number)
    clip.close()


def test_covering_keeps_what_fits() -> None:
    codes = pictures(1)[0]
    assert covering(codes, SIZE) is codes
    assert covering(codes, (48, 48)).shape == (48, 48)
