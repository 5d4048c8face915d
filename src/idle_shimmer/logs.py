"""Logs: one JSON object a line, or plain text on a terminal; each line carries its request or job.

``IDLE_SHIMMER_LOG`` is ``json`` or ``text``; without it a terminal gets text and everything else JSON.
"""

import logging
import os
import sys

import structlog
from structlog.typing import Processor

_QUIET = ("uvicorn.access", "procrastinate", "httpx", "multipart")


def configure_logs() -> None:
    """Send everything that is logged to standard error in one form."""
    wanted = os.environ.get("IDLE_SHIMMER_LOG", "text" if sys.stderr.isatty() else "json")
    shared: list[Processor] = [
        structlog.contextvars.merge_contextvars,
        structlog.stdlib.add_log_level,
        structlog.stdlib.add_logger_name,
        structlog.processors.TimeStamper(fmt="iso", utc=True),
        structlog.stdlib.ExtraAdder(),
    ]
    renderers: list[Processor] = (
        [
            structlog.processors.format_exc_info,
            structlog.processors.JSONRenderer(ensure_ascii=False),
        ]
        if wanted == "json"
        else [structlog.dev.ConsoleRenderer(exception_formatter=structlog.dev.plain_traceback)]
    )
    structlog.configure(
        processors=[*shared, structlog.stdlib.ProcessorFormatter.wrap_for_formatter],
        logger_factory=structlog.stdlib.LoggerFactory(),
        wrapper_class=structlog.stdlib.BoundLogger,
        cache_logger_on_first_use=True,
    )
    handler = logging.StreamHandler(sys.stderr)
    handler.setFormatter(
        structlog.stdlib.ProcessorFormatter(
            foreign_pre_chain=shared,
            processors=[structlog.stdlib.ProcessorFormatter.remove_processors_meta, *renderers],
        )
    )
    root = logging.getLogger()
    root.handlers = [handler]
    root.setLevel(logging.INFO)
    for name in _QUIET:
        logging.getLogger(name).setLevel(logging.WARNING)
