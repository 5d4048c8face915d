"""Pictures, references and paths that several tests share."""

import os
from pathlib import Path

import cv2
import numpy as np
import pytest
import skimage.data
import structlog
from hypothesis import HealthCheck, settings
from numpy.typing import NDArray

from idle_shimmer.core.compute.parallel import set_threads
from tests.support.accuracy_report import write_report

ROOT = Path(__file__).parent.parent


def stand_beside_others(part: str) -> None:
    """Take one thread, a database and a data folder of this part of the tests alone."""
    set_threads(1)
    own = Path(os.environ["IDLE_SHIMMER_DATA"])
    own.mkdir(parents=True, exist_ok=True)
    if not (own / "demo").exists():
        (own / "demo").symlink_to(ROOT / "var" / "demo")
    if server := os.environ.get("IDLE_SHIMMER_TEST_SERVER"):
        place, _, _ = server.rpartition("/")
        name = part.replace(" ", "_").replace("-", "_")
        os.environ["DATABASE_URL"] = f"{place}/shimmer_{name}_test"


if part := os.environ.get("IDLE_SHIMMER_TEST_PART"):
    stand_beside_others(part)


# How long an example takes is the machine's affair, and that of what runs beside the tests.
settings.register_profile("any pace", deadline=None, suppress_health_check=[HealthCheck.too_slow])
settings.load_profile("any pace")

# By default every variable of every call is written out with an error, which takes half a minute.
structlog.configure(
    processors=[
        *structlog.get_config()["processors"][:-1],
        structlog.dev.ConsoleRenderer(exception_formatter=structlog.dev.plain_traceback),
    ]
)


def pytest_terminal_summary(terminalreporter: pytest.TerminalReporter) -> None:
    reports = [*terminalreporter.getreports("passed"), *terminalreporter.getreports("failed")]
    write_report(ROOT / "docs" / "accuracy.md", terminalreporter.config, reports)


def psnr(one: NDArray, other: NDArray) -> float:
    """Peak signal-to-noise ratio in dB of two pictures in 0…1, clipped as 8-bit output would be."""
    error = np.mean((np.clip(one, 0, 1).astype(np.float64) - np.clip(other, 0, 1)) ** 2)
    return float("inf") if error == 0 else float(-10 * np.log10(error))


def code_psnr(one: NDArray, other: NDArray) -> float:
    """Peak signal-to-noise ratio in dB of two uint8 pictures."""
    return psnr(one / 255, other / 255)


@pytest.fixture(scope="session")
def photo() -> NDArray[np.float32]:
    """A photograph, float32 (300, 420, 3) in 0…1."""
    return (skimage.data.astronaut()[60:360, 40:460] / 255).astype(np.float32)


@pytest.fixture(scope="session")
def codes_pair() -> tuple[NDArray[np.uint8], NDArray[np.uint8]]:
    """Two photographs as uint8 codes, (360, 640, 3)."""
    return tuple(
        cv2.resize(picture, (640, 360), interpolation=cv2.INTER_AREA)
        for picture in (skimage.data.astronaut(), skimage.data.coffee())
    )
