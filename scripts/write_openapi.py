"""Writes docs/openapi.json from the application; with --check only compares."""

import json
import sys
from pathlib import Path

from idle_shimmer.api.app import create_app

target = Path(__file__).parent.parent / "docs" / "openapi.json"
text = json.dumps(create_app().openapi(), indent=1) + "\n"
if "--check" in sys.argv:
    sys.exit(0 if target.read_text(encoding="utf-8") == text else f"{target} is out of date")
target.write_text(text, encoding="utf-8")
