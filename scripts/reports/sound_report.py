"""Draws the spectrograms of the synthesised sounds and writes their figures."""

from fractions import Fraction
from pathlib import Path

import cv2
import numpy as np
import scipy.signal
from numpy.typing import NDArray

from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.recipe import recipe_from_json
from idle_shimmer.core.sound.accent import PlacedSound
from idle_shimmer.core.sound.levels import db_of_gain, momentary_loudness, peak_db, true_peak_db
from idle_shimmer.core.sound.samples import SAMPLES_PER_SECOND, Sound
from idle_shimmer.core.sound.sounds.base import registered
from idle_shimmer.transition.heard_accent import accent_of

DOCS = Path("docs")
WINDOW, RATE = Window(15, 15), Fraction(25)
PART, HOP = 1024, 128
LOW_HZ, HIGH_HZ, FLOOR_DB = 40.0, 24_000.0, -90.0
WIDTH, HEIGHT, MARGIN = 900, 220, 34
QUARTERS = 4
GREY, INK = (38, 38, 38), (228, 233, 236)


def main() -> None:
    """Write docs/sounds.png and docs/sound.md."""
    made = {name: _made(name) for name in registered()}
    cv2.imwrite(str(DOCS / "sounds.png"), np.vstack([_drawn(*each) for each in made.items()]))
    (DOCS / "sound.md").write_text(_report(made), encoding="utf-8")


def _made(name: str) -> PlacedSound:
    recipe = recipe_from_json({"format": 2, "accent": {"sound": name, "gain_db": 0.0}})
    found = accent_of(recipe, WINDOW, RATE, None)
    assert found is not None
    return found


def _spectrum(sound: Sound) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Return the frequencies, and the level in dB of each at every hop."""
    mono = np.pad(sound.mean(axis=1), (PART, PART))
    hertz, _, found = scipy.signal.stft(mono, SAMPLES_PER_SECOND, nperseg=PART, noverlap=PART - HOP)
    level = 20 * np.log10(np.abs(found) + 1e-9)
    return hertz, level - level.max()


def _drawn(name: str, sound: PlacedSound) -> NDArray[np.uint8]:
    hertz, level = _spectrum(sound.samples)
    rows = np.geomspace(HIGH_HZ, LOW_HZ, HEIGHT)
    places = np.searchsorted(hertz, rows).clip(0, len(hertz) - 1)
    share = ((level[places] - FLOOR_DB) / -FLOOR_DB).clip(0, 1)
    grey = cv2.resize((255 * share).astype(np.uint8), (WIDTH, HEIGHT))
    picture = np.full((HEIGHT + MARGIN, WIDTH, 3), GREY, np.uint8)
    picture[MARGIN:] = cv2.applyColorMap(np.asarray(grey, np.uint8), cv2.COLORMAP_BONE)
    text = f"{name}: {LOW_HZ:g} Hz to {HIGH_HZ / 1000:g} kHz, {len(sound.samples) / 48000:.1f} s"
    cv2.putText(picture, text, (10, 23), cv2.FONT_HERSHEY_SIMPLEX, 0.5, INK, 1, cv2.LINE_AA)
    middle = round(-sound.first / len(sound.samples) * WIDTH)
    cv2.line(picture, (middle, MARGIN), (middle, HEIGHT + MARGIN), INK, 1)
    return picture


def _report(made: dict[str, PlacedSound]) -> str:
    head = ["sound", "true peak (dBTP)", "loudness (LUFS)", "crest (dB)", "above 16 kHz (dB)"]
    head += ["first and last sample (dBFS)", "centroid by quarters (Hz)"]
    lines = [
        "# Sounds",
        "",
        (
            "Figures of the synthesised sounds, each over 1.2 s at 0 dBFS with its usual settings, written by"
            " `scripts/sound_report`. The picture shows their spectrograms; the line is the cut."
        ),
        "",
        "![Spectrograms](sounds.png)",
        "",
        f"| {' | '.join(head)} |",
        f"|{' --- |' * len(head)}",
        *(f"| {' | '.join(_row(*each))} |" for each in made.items()),
        "",
        (
            "The loudness is that of the loudest 400 ms. What lies above 16 kHz is compared with all of the"
            " sound: aliases would be found there. The centroid is where the middle of the spectrum lies in"
            " each quarter of the sound."
        ),
    ]
    return "\n".join(lines) + "\n"


def _row(name: str, sound: PlacedSound) -> list[str]:
    samples = sound.samples
    mono = samples.mean(axis=1).astype(np.float64)
    power = np.abs(np.fft.rfft(mono)) ** 2
    hertz = np.fft.rfftfreq(len(mono), 1 / SAMPLES_PER_SECOND)
    high = power[hertz > 16_000].sum() / power.sum()
    ends = db_of_gain(float(np.abs(samples[[0, -1]]).max()))
    crest = peak_db(samples) - db_of_gain(float(np.sqrt((samples.astype(np.float64) ** 2).mean())))
    centroids = []
    for part in np.array_split(mono, QUARTERS):
        spectrum = np.abs(np.fft.rfft(part))
        total = spectrum.sum()
        at = np.fft.rfftfreq(len(part), 1 / SAMPLES_PER_SECOND)
        centroids.append(f"{(spectrum * at).sum() / total:.0f}" if total > 1e-6 else "silent")
    return [
        name,
        f"{true_peak_db(samples):.1f}",
        f"{momentary_loudness(samples):.1f}",
        f"{crest:.1f}",
        f"{10 * np.log10(high + 1e-12):.0f}",
        f"{ends:.0f}",
        ", ".join(centroids),
    ]


if __name__ == "__main__":
    main()
