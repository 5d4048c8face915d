"""Writes docs/openapi.json and docs/recipe.schema.json from the code; with --check only compares."""

import json
import sys
from pathlib import Path

from idle_shimmer.api.app import create_app
from idle_shimmer.core.recipe import Recipe

docs = Path(__file__).parent.parent / "docs"
written = {
    docs / "openapi.json": create_app().openapi(),
    docs / "recipe.schema.json": Recipe.model_json_schema(),
}
for target, document in written.items():
    text = json.dumps(document, indent=1) + "\n"
    if "--check" not in sys.argv:
        target.write_text(text, encoding="utf-8")
    elif not target.is_file() or target.read_text(encoding="utf-8") != text:
        sys.exit(f"{target} is out of date: run scripts/write_openapi.py")
