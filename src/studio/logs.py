"""What the application writes down of itself: each request has an id, and no line tells a secret."""

import logging
import re
import secrets
from contextvars import ContextVar

request_id: ContextVar[str] = ContextVar("request_id", default="-")
# The address of a student's page is all that guards it.
PRIVATE = re.compile(r"(/for/)[^/\s?\"']+")


class Formatter(logging.Formatter):
    """A line with the id of the request that wrote it; addresses of students' pages are left out."""

    def format(self, record):
        record.request_id = request_id.get()
        return PRIVATE.sub(r"\1…", super().format(record))


def configuration(mode, path):
    """How Django's own logging is set up: the console in demo, a file in deploy, nothing of ours in test.

    Parameters
    ----------
    mode : str
        As `config.settings` has it.
    path : pathlib.Path
        The file for deploy; five of 5 MB are kept.
    """
    console = {"class": "logging.StreamHandler", "formatter": "line"}
    file = {
        "class": "logging.handlers.RotatingFileHandler",
        "formatter": "line",
        "filename": str(path),
        "maxBytes": 5_000_000,
        "backupCount": 5,
        "delay": True,
        "encoding": "utf-8",
    }
    handler = {"demo": console, "deploy": file, "test": {"class": "logging.NullHandler"}}[mode]
    return {
        "version": 1,
        "disable_existing_loggers": False,
        "formatters": {
            "line": {
                "()": "studio.logs.Formatter",
                "format": "{asctime} {levelname} {request_id} {name}: {message}",
                "style": "{",
            }
        },
        "handlers": {"here": handler},
        "loggers": {
            "django": {"handlers": ["here"], "level": "WARNING"},
            "security": {"handlers": ["here"], "level": "INFO"},
        },
    }


class RequestIdMiddleware:
    """Give each request an id, by which an error that is shown is found in the log."""

    def __init__(self, get_response):
        self.get_response = get_response

    def __call__(self, request):
        token = request_id.set(secrets.token_hex(4))
        try:
            return self.get_response(request)
        finally:
            request_id.reset(token)
