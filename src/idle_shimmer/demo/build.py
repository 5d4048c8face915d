"""Draws and encodes the demo clips, and places them in the demo edit."""

import hashlib
import shutil
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, field
from fractions import Fraction
from importlib import resources
from multiprocessing import get_context
from pathlib import Path
from typing import Any

from idle_shimmer.core.compute.parallel import set_threads
from idle_shimmer.demo.music import bed
from idle_shimmer.demo.paint import HEIGHT, RATE, WIDTH
from idle_shimmer.demo.scenes import SCENES
from idle_shimmer.media.write.writer import Coding, SoundTrack, frame_of, writing

EDIT_NAME = "Lantern night"
FILES = (
    "dusk-water",
    "hoisted-sail",
    "lantern-rows",
    "pier-crowd",
    "carousel-of-lights",
    "fireworks",
    "wake",
    "title-board",
)


@dataclass(frozen=True)
class DemoCut:
    """A cut of the demo edit: its window and its transition."""

    before: int
    after: int
    recipe: dict[str, Any] = field(default_factory=dict)


# (scene number, first frame, frame after the last): whole beats of 15 frames. The number of spare
# frames differs from clip to clip; the wake has only three.
PLACED = (
    (7, 5, 95),
    (0, 20, 110),
    (1, 22, 112),
    (2, 25, 130),
    (4, 30, 120),
    (3, 18, 108),
    (5, 25, 130),
    (6, 3, 108),
)


def _swell(peak: float, **more: Any) -> dict[str, Any]:
    return {"kind": "swell", "peak": peak, **more}


def _blur(peak: float, angle: float) -> dict[str, Any]:
    return {"id": "blur", "kind": "directional_blur", "angle": angle, "length": _swell(peak)}


def _roll(axis: str, amount: int, steepness: float = 0.8) -> dict[str, Any]:
    travel = {"kind": "travel", "amount": amount, "easing": {"steepness": steepness}}
    return {"id": "roll", "kind": "roll", "edge": "tile", axis: travel}


CUTS = (
    DemoCut(
        10,
        10,
        {
            "name": "Soft focus dissolve",
            "mix": {"kind": "dissolve", "span": [-0.5, 0.5]},
            "filters": [{"id": "blur", "kind": "gaussian_blur", "radius": _swell(0.05)}],
        },
    ),
    DemoCut(7, 6, {"name": "Upward blur", "filters": [_blur(0.35, 90)]}),
    DemoCut(8, 8, {"name": "Horizontal roll", "filters": [_roll("x", 1, 0.75), _blur(0.3, 0)]}),
    DemoCut(
        5,
        5,
        {
            "name": "Four rolls up",
            "mix": {"kind": "dissolve", "span": [-0.5, 0.5]},
            "filters": [_roll("y", -4), _blur(0.25, 90)],
        },
    ),
    DemoCut(
        6,
        7,
        {
            "name": "Into the lights",
            "shutter": 180,
            "filters": [
                {
                    "id": "zoom-in",
                    "kind": "transform",
                    "side": "outgoing",
                    "scale": _swell(2.6, full_to=0, end=0),
                },
                {
                    "id": "zoom-out",
                    "kind": "transform",
                    "side": "incoming",
                    "scale": _swell(0.4, start=0, full_from=0),
                },
                {"id": "soften", "kind": "gaussian_blur", "radius": _swell(0.012)},
            ],
        },
    ),
    DemoCut(
        10,
        10,
        {
            "name": "Half a turn each",
            "shutter": 270,
            "filters": [
                {
                    "id": "turn",
                    "kind": "transform",
                    "turns": {"kind": "travel", "amount": 1, "easing": {"steepness": 0.85}},
                    "scale": _swell(1.35),
                }
            ],
        },
    ),
    DemoCut(3, 3, {"name": "Short dissolve", "mix": {"kind": "dissolve"}}),
)


def build_clips(folder: Path) -> list[Path]:
    """Return the demo clips in ``folder``; draw those that are missing or out of date."""
    target = folder / _code_mark()
    paths = [target / f"{name}.mp4" for name in FILES]
    # A clip appears only when it is complete: one that exists is up to date.
    missing = [number for number, path in enumerate(paths) if not path.is_file()]
    if missing:
        for outdated in folder.glob("*/"):
            if outdated != target:
                shutil.rmtree(outdated)
        target.mkdir(parents=True, exist_ok=True)
        with ProcessPoolExecutor(max_workers=2, mp_context=get_context("spawn")) as pool:
            list(pool.map(_draw, missing, [paths[number] for number in missing], chunksize=1))
    return paths


def _draw(number: int, path: Path) -> None:
    set_threads(1)
    scene = SCENES[number]()
    sound = bed(_sound_start(number), Fraction(scene.frames, RATE))
    with writing(
        path, (WIDTH, HEIGHT), Fraction(RATE), Coding(fast=True), tracks=[SoundTrack([sound])]
    ) as writer:
        for frame in range(scene.frames):
            writer.write(frame_of(scene.frame(frame)))


def _sound_start(number: int) -> Fraction:
    """Return the time in the music of a clip's first frame, so that the music runs through the edit."""
    at = 0
    for scene, first, end in PLACED:
        if scene == number:
            return Fraction(at - first, RATE)
        at += end - first
    return Fraction(0)


def _code_mark() -> str:
    """Return a hash of the drawing code, which names the cache folder."""
    mark = hashlib.sha256()
    for package in ("idle_shimmer.demo", "idle_shimmer.demo.scenes"):
        for file in sorted(resources.files(package).iterdir(), key=lambda each: each.name):
            if file.name.endswith(".py"):
                mark.update(file.read_bytes())
    return mark.hexdigest()[:12]
