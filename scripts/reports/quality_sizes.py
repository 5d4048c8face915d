"""Measures the size and the time of a render in every format: the first estimates of the Render dialog."""

import json
import time
from fractions import Fraction
from pathlib import Path

from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.recipe import recipe_from_json
from idle_shimmer.demo.build import CUTS, PLACED, build_clips
from idle_shimmer.demo.paint import HEIGHT, RATE, WIDTH
from idle_shimmer.media.write.output_formats import FORMATS, QUALITIES, OutputFormat, Quality
from idle_shimmer.output.estimates import megapixels
from idle_shimmer.output.opened_edit import opened_here
from idle_shimmer.output.plan import EditPlan, OutputSettings, PlannedClip, PlannedCut
from idle_shimmer.output.render_edit import render_edit
from idle_shimmer.settings import settings

RATES = Path(__file__).parents[2] / "src/idle_shimmer/output/usual_rates.json"
# The cut of the demo edit that is rendered.
MEASURED_CUT = 3


def _demo_plan() -> EditPlan:
    paths = build_clips(settings().demo)
    return EditPlan(
        "Lantern night",
        (WIDTH, HEIGHT),
        Fraction(RATE),
        tuple(
            PlannedClip(paths[n].stem.replace("-", " ").capitalize(), paths[n], first, end)
            for n, first, end in PLACED
        ),
        tuple(
            PlannedCut(Window(cut.before, cut.after), recipe_from_json(cut.recipe), n)
            for n, cut in enumerate(CUTS, 1)
        ),
    )


def measure_rates(folder: Path) -> None:
    """Render a window of the demo edit in every format, and keep the figures as the first estimates."""
    plan = _demo_plan()
    found = {}
    for output in FORMATS.values():
        for quality in output.qualities or QUALITIES:
            if output.qualities or quality == "standard":
                found[f"{output.id} {quality}"] = _rate(folder, plan, output, quality)
        if not output.qualities:
            found |= {f"{output.id} {each}": found[f"{output.id} standard"] for each in QUALITIES}
    RATES.write_text(json.dumps({"rates": found}, indent=1) + "\n", encoding="utf-8")


def _rate(folder: Path, plan: EditPlan, output: OutputFormat, quality: Quality) -> list[float]:
    """Render a window of the demo edit; return bytes and seconds for a million pixels."""
    path = folder / f"rate{output.suffix}"
    count = 0

    def advance() -> None:
        nonlocal count
        count += 1

    began = time.perf_counter()
    with opened_here(plan, plan.size) as edit:
        wanted = OutputSettings(output, quality, handles=12)
        render_edit(edit, "window", wanted, path, advance, place=MEASURED_CUT)
    pixels = megapixels(plan.size, count)
    return [round(path.stat().st_size / pixels), round((time.perf_counter() - began) / pixels, 4)]


def sizes() -> str:
    """Return the section with sizes and times, from the estimates that are kept."""
    found: dict[str, list[float]] = json.loads(RATES.read_text(encoding="utf-8"))["rates"]
    one = megapixels((1920, 1080), 25)
    rows = []
    for output in FORMATS.values():
        for quality in output.qualities or ("standard",):
            size, seconds = found[f"{output.id} {quality}"]
            label = f"{output.name}, {quality}" if output.qualities else output.name
            rows.append(f"| {label} | {size * one / 1e6:.1f} | {25 / (seconds * one):.1f} |")
    table = "\n".join(rows)
    return f"""## Sizes and times

A window of the demo edit with 12 untreated frames on each side, in every format, on the machine of this
run: MB for a second of 1920×1080 at 25 fps, and frames per second at that size, both computed from
1280×720. A real installation learns its own figures from what it renders.

| | MB | fps |
| --- | ---: | ---: |
{table}
"""
