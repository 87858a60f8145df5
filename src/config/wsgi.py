"""Entry point for a WSGI server; the processes that work in the background begin with it."""

import os

from django.core.wsgi import get_wsgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "config.settings")
application = get_wsgi_application()

from config import start  # noqa: E402 -- needs the applications loaded

start.begin()
