"""One file a member: a made-up filter of each sort is found by everything that looks at filters.

Each is written as a file of its own, imported in a fresh process, and then seen in the catalogue, the
checks, followers, flips, adjustments, the contact sheet and the description of the interface.
"""

import json
import os
import subprocess
import sys
from pathlib import Path

import pytest

# A filter that moves the picture and wraps, one that blurs along a direction, one that softens.
MEMBERS = {
    "conveyor": '''
"""Conveyor: the picture moves right."""
from typing import Literal
from idle_shimmer.core.filters.base import FrameContext, MovingFilter, Values, number
from idle_shimmer.core.geometry.transforms import translation
from idle_shimmer.core.parameters import Parameter

WAY = Parameter("Way", "whole", "frames", rest=0, low=-9, high=9, usual=1, moves="travel",
                orientation="rightward", period=lambda _: 1.0)

class Conveyor(MovingFilter):
    """Moves right."""
    title, family, purpose = "Conveyor", "geometry", "Moves the picture right."
    kind: Literal["conveyor"] = "conveyor"
    way: number(WAY) = 0.0

    def stage(self, values: Values, context: FrameContext):
        return translation((values["way"] * context.width, 0.0), "tile")
''',
    "brush": '''
"""Brush: a blur along a direction."""
from typing import Literal
from idle_shimmer.core.filters.base import FrameContext, PictureFilter, Values, number
from idle_shimmer.core.parameters import Following, Parameter

REACH = Parameter("Reach", "amount", "height", rest=0, high=4, usual=0.1, moves="swell",
                  follow=Following(lambda m, _: m.distance, noticeable=lambda _: 0.05))
SLANT = Parameter("Slant", "angle", "deg", low=-3600, high=3600, orientation="angle")

class Brush(PictureFilter):
    """Brushes."""
    title, family, purpose = "Brush", "blur", "Brushes the picture."
    direction_parameter = "slant"
    kind: Literal["brush"] = "brush"
    reach: number(REACH) = 0.0
    slant: number(SLANT) = 0.0

    def apply(self, pixels, values: Values, context: FrameContext):
        return pixels * 0.5

    def softening(self, values: Values) -> float:
        return values["reach"]

    def blur_angle_deg(self, values: Values):
        return values["slant"] if values["reach"] else None
''',
    "magnifier": '''
"""Magnifier: enlarges the picture."""
from typing import Literal
from idle_shimmer.core.filters.base import FrameContext, MovingFilter, Values, number
from idle_shimmer.core.geometry.transforms import placement
from idle_shimmer.core.parameters import Parameter

POWER = Parameter("Power", "factor", "ratio", rest=1, low=0.1, high=9, usual=2, moves="swell",
                  interpolation="ratio")

class Magnifier(MovingFilter):
    """Magnifies."""
    title, family, purpose = "Magnifier", "geometry", "Enlarges the picture."
    kind: Literal["magnifier"] = "magnifier"
    power: number(POWER) = 1.0

    def stage(self, values: Values, context: FrameContext):
        p, centre = values["power"], (context.width / 2, context.height / 2)
        return placement((p, p), 0.0, centre, (0.0, 0.0), values["edge"])
''',
}
PROBE = """
import json, sys
from fractions import Fraction
from importlib.util import module_from_spec, spec_from_file_location
import idle_shimmer.core.filters as package
from pathlib import Path
package.__path__.append(sys.argv[1])
from importlib import import_module
for file in sorted(Path(sys.argv[1]).glob("*.py")):
    import_module(f"idle_shimmer.core.filters.{file.stem}")
from idle_shimmer.core.catalogue import catalogue
from idle_shimmer.core import checks
from idle_shimmer.core.adjust import flip, with_strength
from idle_shimmer.core.animation.timeline import Timeline
from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.checks.base import CheckContext, registered
from idle_shimmer.core.recipe import Recipe, recipe_from_json
from scripts.contact_sheets import strengths

window = Window(8, 8)
def recipe(*filters):
    return recipe_from_json({"format": 2, "filters": list(filters)})
def found(check, *filters):
    timeline = Timeline(recipe(*filters), window, Fraction(25), (1280, 720))
    finding = registered()[check].run(CheckContext(timeline))
    return [finding.status, round(finding.value, 3), [fix.patch for fix in finding.fixes]]

move = {"id": "c", "kind": "conveyor", "way": {"kind": "travel", "amount": 1.5}}
whole = {**move, "way": {"kind": "travel", "amount": 1}}
swell = {"kind": "swell", "peak": 0.1}
brush = {"id": "b", "kind": "brush", "slant": 90, "reach": swell}
follower = {"id": "b", "kind": "brush", "reach": {"kind": "follow", "filter": "c", "shutter": 360}}
early = {**brush, "slant": 0, "reach": {**swell, "full_from": -0.7, "full_to": 0.7}}
zoom = {"id": "m", "kind": "magnifier", "power": {"kind": "swell", "peak": 3.0}}
timeline = Timeline(recipe(whole, follower), window, Fraction(25), (1280, 720))
stronger = with_strength(recipe(whole), 2.2)
print(json.dumps({
    "catalogue": [each["kind"] for each in catalogue()["filters"]],
    "landing": found("landing", move),
    "direction": found("direction", whole, brush),
    "pace": found("pace", {**whole, "way": {**whole["way"], "easing": {"steepness": 0.9}}}, early),
    "enlargement": found("enlargement", zoom),
    "follow": timeline.values(timeline.recipe.filters[1], 0.5)["reach"],
    "flipped": [flip(recipe(whole, brush), "horizontal").filters[0].way.amount,
                flip(recipe(whole, brush), "vertical").filters[1].slant],
    "strength": stronger.filters[0].way.amount,
    "schema": sorted(name for name in Recipe.model_json_schema()["$defs"]),
    "sheet": [round(document["power"], 2) for _, document in strengths("magnifier", {})],
}))
"""


@pytest.fixture(scope="module")
def seen(tmp_path_factory: pytest.TempPathFactory) -> dict:
    folder = tmp_path_factory.mktemp("members")
    for name, text in MEMBERS.items():
        (folder / f"{name}.py").write_text(text.strip() + "\n", encoding="utf-8")
    root = Path(__file__).parents[3]
    done = subprocess.run(
        [sys.executable, "-c", PROBE, str(folder)],
        cwd=root,
        env={**os.environ, "PYTHONPATH": str(root)},
        capture_output=True,
        text=True,
        check=False,
    )
    assert done.returncode == 0, done.stderr[-3000:]
    return json.loads(done.stdout)


def test_it_is_in_the_catalogue_and_in_the_description_of_the_interface(seen: dict) -> None:
    assert set(MEMBERS) <= set(seen["catalogue"])
    assert {"Conveyor", "Brush", "Magnifier"} <= set(seen["schema"])


def test_what_wraps_is_checked_for_its_landing(seen: dict) -> None:
    status, value, fixes = seen["landing"]
    assert (status, value) == ("failed", 640)
    assert fixes[0][0]["path"] == "/filters/0/way/amount"
    assert fixes[0][0]["value"] == 2


def test_what_blurs_along_a_direction_is_checked_against_what_moves(seen: dict) -> None:
    status, value, fixes = seen["direction"]
    assert (status, value) == ("warning", 90)
    assert fixes[0][0] == {"op": "replace", "path": "/filters/1/slant", "value": 0.0}
    status, _, fixes = seen["pace"]
    assert status == "warning"
    assert fixes[0][0]["value"] == {"kind": "follow", "filter": "c", "shutter": 180.0}


def test_what_enlarges_is_checked_for_being_shown_sharp(seen: dict) -> None:
    status, value, _ = seen["enlargement"]
    assert status == "warning"
    assert value == pytest.approx(300, abs=45)


def test_a_blur_follows_what_moves(seen: dict) -> None:
    # Fastest at the cut: the easing of a travel is steepest in its middle.
    assert 0.1 < seen["follow"] < 0.5


def test_it_is_flipped_strengthened_and_drawn(seen: dict) -> None:
    assert seen["flipped"] == [-1, -90]
    assert seen["strength"] == 2
    assert seen["sheet"] == [1.4, 2.0, 2.8]
