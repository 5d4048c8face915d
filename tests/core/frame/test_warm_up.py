"""After warming up, no frame waits for a compiler."""

import json
import subprocess
import sys

from tests.conftest import ROOT

SCRIPT = """
import json
import sys
import numpy as np
from numba.core.dispatcher import Dispatcher
from idle_shimmer.book.entries import book
from idle_shimmer.core.mixes.base import registered
from idle_shimmer.core.recipe import recipe_from_json
from tests.support.frames import render_frame
from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.frame.warm_up import warm_up

def compiled():
    modules = [each for name, each in sys.modules.items() if name.startswith("idle_shimmer.core")]
    kernels = [each for module in modules for each in vars(module).values() if isinstance(each, Dispatcher)]
    return {f"{each.py_func.__module__}.{each.py_func.__name__}": len(each.signatures) for each in kernels}

MATTES = [{"type": "barWipe", "subtype": "topToBottom"}, {"type": "clockWipe"},
          {"clouds": {"size": 0.3}}, {"blocks": {"size": 0.3}}, {"brightness": "outgoing"}]
recipes = [each.recipe for each in book().values()]
mixes = [{"kind": kind} for kind in registered()]
mixes += [{"kind": "wipe", "matte": matte, "softness": 0.2} for matte in MATTES]
mixes += [{"kind": "push", "from": side, "feather": 0.3} for side in ("top", "right")]
for mix in mixes:
    for light in ("linear", "display"):
        for sides in ((), ("incoming",), ("across",), ("outgoing", "incoming", "across")):
            filters = [{"kind": "roll", "id": side, "side": side, "x": 0.3} for side in sides]
            recipes.append(recipe_from_json({"light": light, "mix": mix, "filters": filters}))
warm_up()
before = compiled()
for height, width in ((90, 160), (180, 320)):
    random = np.random.default_rng(1)
    pair = [random.integers(0, 256, (height, width, 3)).astype(np.uint8) for _ in range(2)]
    for each in pair:
        each.flags.writeable = False
    for recipe in recipes:
        for offset in (-3, -1, 0, 2):
            render_frame(recipe, Window(5, 5), offset, *pair)
after = compiled()
print(json.dumps([name for name, count in after.items() if count > before.get(name, 0)]))
"""


def test_whatever_is_rendered_is_compiled_by_then() -> None:
    """Every recipe of the book and every mix, at two sizes, on protected pictures as decoded."""
    ran = subprocess.run(
        [sys.executable, "-c", SCRIPT], cwd=ROOT, capture_output=True, text=True, check=True
    )
    assert json.loads(ran.stdout) == []
