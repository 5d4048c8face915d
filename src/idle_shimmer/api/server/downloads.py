"""Files that the API offers to be downloaded."""

import json
from typing import Any

from fastapi import Response


def json_file(document: Any, name: str) -> Response:
    """Return a JSON document as a file called ``name``."""
    text = json.dumps(document, indent=1, ensure_ascii=False) + "\n"
    return text_file(text, name, "application/json")


def text_file(text: str, name: str, media_type: str) -> Response:
    """Return text as a file called ``name``."""
    head = {"Content-Disposition": f'attachment; filename="{name}"'}
    return Response(text, media_type=media_type, headers=head)
