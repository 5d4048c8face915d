"""Writes docs/openapi.json from the application, for the TypeScript client."""

import json
from pathlib import Path

from idle_shimmer.api.app import create_app

target = Path(__file__).parent.parent / "docs" / "openapi.json"
target.write_text(json.dumps(create_app().openapi(), indent=1) + "\n", encoding="utf-8")
