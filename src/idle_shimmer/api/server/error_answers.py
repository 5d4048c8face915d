"""Gives every error one form: ``{"problems": [{"field", "message"}]}``."""

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from pydantic import BaseModel
from starlette.exceptions import HTTPException

from idle_shimmer.core.errors import RecipeError, ShimmerError
from idle_shimmer.core.recipe import problems_of
from idle_shimmer.store.errors import ChangedMeanwhile, NameTaken, NotFound


class Problem(BaseModel):
    """A field, what is wrong with it and what to do; ``field`` is null where there is none."""

    field: str | None
    message: str


class Problems(BaseModel):
    """The body of every refusal."""

    problems: list[Problem]


_HTTP_MESSAGES = {
    400: "the request cannot be read: it must be JSON",
    404: "there is nothing at this address",
    405: "this address does not take such a request",
}
# What any address may answer, and when.
_WHEN = {
    400: "The request cannot be read.",
    401: "Nobody is signed in.",
    403: "The request comes from another website's page, or nobody may sign in here yet.",
    404: "What the address names does not exist.",
    409: "It was changed meanwhile, or the name is taken.",
    413: "The body is too large.",
    414: "The address is too long.",
    415: "The body is of another content type.",
    421: "The server does not answer to this name.",
    422: "A value is not accepted.",
    503: "The database or the store of files does not answer.",
    507: "The disk is full.",
}
REFUSALS: dict[int | str, dict[str, object]] = {
    status: {"model": Problems, "description": when} for status, when in _WHEN.items()
}


def problems_in(error: ShimmerError) -> list[Problem]:
    """Return the problems that ``error`` reports."""
    if isinstance(error, RecipeError):
        return [Problem(field=path or None, message=text) for path, text in error.problems]
    return [Problem(field=error.field, message=error.message)]


def _answer(status: int, problems: list[Problem]) -> JSONResponse:
    return JSONResponse(Problems(problems=problems).model_dump(), status_code=status)


def refusal(status: int, message: str) -> JSONResponse:
    """Return a refusal with one message."""
    return _answer(status, [Problem(field=None, message=message)])


def install(app: FastAPI) -> None:
    """Make ``app`` answer errors in this form."""

    @app.exception_handler(ShimmerError)
    def on_own(_: Request, error: ShimmerError) -> JSONResponse:
        status = {NotFound: 404, ChangedMeanwhile: 409, NameTaken: 409}.get(type(error), 422)
        return _answer(status, problems_in(error))

    @app.exception_handler(HTTPException)
    def on_http(_: Request, error: HTTPException) -> JSONResponse:
        answer = refusal(error.status_code, _HTTP_MESSAGES.get(error.status_code, error.detail))
        answer.headers.update(error.headers or {})
        return answer

    @app.exception_handler(RequestValidationError)
    def on_validation(_: Request, error: RequestValidationError) -> JSONResponse:
        found = problems_of(error.errors(), skip=1)
        return _answer(422, [Problem(field=path or None, message=text) for path, text in found])
