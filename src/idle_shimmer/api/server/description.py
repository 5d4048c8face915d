"""The description of the API: every refusal stands in it once, and addresses refer to it (OpenAPI 3.1, Reference Object)."""

from typing import Any

from fastapi import FastAPI
from fastapi.openapi.utils import get_openapi


def describe(app: FastAPI) -> None:
    """Make ``app`` describe itself so, at ``/openapi.json`` as well."""

    def described() -> dict[str, Any]:
        if app.openapi_schema is None:
            whole = get_openapi(title=app.title, version=app.version, routes=app.routes)
            app.openapi_schema = _once(whole)
        return app.openapi_schema

    app.openapi = described  # type: ignore[method-assign]


def _once(whole: dict[str, Any]) -> dict[str, Any]:
    """Return a description whose refusals stand under ``components/responses``."""
    refusals = whole["components"].setdefault("responses", {})
    for address in whole["paths"].values():
        for operation in address.values():
            answers = operation["responses"]
            for status in [each for each in answers if each[0] in "45"]:
                name = f"Refusal{status}"
                # An address that says more about a refusal keeps its own words.
                if refusals.setdefault(name, answers[status]) == answers[status]:
                    answers[status] = {"$ref": f"#/components/responses/{name}"}
    return whole
