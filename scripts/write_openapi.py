"""Writes what the page and the docs take from the code; with --check only compares.

docs/openapi.json, docs/recipe.schema.json, and the defaults of new parts of a recipe for the page.
"""

import json
import sys
from pathlib import Path

from idle_shimmer.api.app import create_app
from idle_shimmer.core.recipe import Recipe
from idle_shimmer.core.usual import usual

root = Path(__file__).parent.parent
written = {
    root / "docs/openapi.json": create_app().openapi(),
    root / "docs/recipe.schema.json": Recipe.model_json_schema(),
    root / "web/src/lib/api/generated/usual.json": usual(),
}
for target, document in written.items():
    text = json.dumps(document, indent=1) + "\n"
    if "--check" not in sys.argv:
        target.write_text(text, encoding="utf-8")
    elif not target.is_file() or target.read_text(encoding="utf-8") != text:
        sys.exit(f"{target} is out of date: run scripts/write_openapi.py")
