"""What a browser needs to open pages of counting without a network: a worker, and what that keeps."""

import hashlib
import json
from functools import cache

from django.conf import settings
from django.contrib.auth.decorators import login_not_required
from django.contrib.staticfiles import finders
from django.contrib.staticfiles.storage import staticfiles_storage
from django.http import HttpResponse, JsonResponse
from django.urls import reverse
from django.views.decorators.http import require_GET

# Styles, script and fonts of every page.
FONTS = ("inter-latin", "inter-latin-ext", "noto-symbols", "noto-symbols-bold", "noto-music")
FILES = ("css/app.css", "js/app.js", "icons/favicon.svg", *(f"fonts/{name}.woff2" for name in FONTS))


@cache
def _worker() -> str:
    text = (settings.SRC / "scripts" / "worker.js").read_text("utf-8")
    urls = json.dumps([staticfiles_storage.url(name) for name in FILES])
    digest = hashlib.sha256((text + urls).encode())
    for name in FILES:
        with open(finders.find(name), "rb") as file:  # noqa: PTH123 -- a finder gives a name, not a path
            digest.update(file.read())
    return f'const VERSION = "{digest.hexdigest()[:12]}";\nconst FILES = {urls};\n{text}'


@require_GET
@login_not_required
def worker(_):
    response = HttpResponse(_worker(), content_type="text/javascript; charset=utf-8")
    response["Cache-Control"] = "no-cache"
    return response


@require_GET
@login_not_required
def manifest(_):
    icon = {"src": staticfiles_storage.url("icons/favicon.svg"), "sizes": "any", "type": "image/svg+xml"}
    told = {"name": "Fair Reach", "short_name": "Fair Reach", "start_url": reverse("home"), "icons": [icon]}
    return JsonResponse(told | {"display": "standalone"}, content_type="application/manifest+json")


def opens_offline(response, who, until=None):
    """Let a browser keep a page for the one whose it is, to be opened without a network; until a moment."""
    response["X-Fair-Reach-Who"] = who
    if until is not None:
        response["X-Fair-Reach-Until"] = until.isoformat()
    return response


class NoStoreMiddleware:
    """Pages of a teacher are kept by no cache of a browser or on the way, but for what a page says itself."""

    def __init__(self, get_response):
        self.get_response = get_response

    def __call__(self, request):
        response = self.get_response(request)
        if request.user.is_authenticated and not response.has_header("Cache-Control"):
            response["Cache-Control"] = "no-store, private"
        return response
