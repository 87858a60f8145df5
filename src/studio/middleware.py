"""Signing in the demo teacher on the loopback address, in demo mode only; parts of pages kept apart."""

import ipaddress
from urllib.parse import urlsplit, urlunsplit

from django.conf import settings
from django.contrib.auth import REDIRECT_FIELD_NAME, get_user_model, login
from django.contrib.auth.middleware import LoginRequiredMiddleware
from django.contrib.auth.views import redirect_to_login
from django.http import HttpResponse
from django.shortcuts import redirect
from django.utils.cache import patch_vary_headers
from django.utils.http import url_has_allowed_host_and_scheme

DEMO_TEACHER = "demo"
PART_HEADER = "HX-Target"


def part_asked(request):
    """The id of the part of the page that is asked for; empty for the whole page."""
    return request.headers.get(PART_HEADER, "").partition("#")[2]


def leave_for(request, address):
    """Go to another page, also where only a part of this one was asked for."""
    if not part_asked(request):
        return redirect(address)
    response = HttpResponse()
    response["HX-Redirect"] = address
    return response


class PartsMiddleware:
    """Tell caches that an address gives a whole page or a part of it.

    Without it a browser that goes back to the page may show the part that it fetched last.
    """

    def __init__(self, get_response):
        self.get_response = get_response

    def __call__(self, request):
        response = self.get_response(request)
        patch_vary_headers(response, [PART_HEADER])
        return response


class SignInMiddleware(LoginRequiredMiddleware):
    """After a sign-in that a form met, its own page comes again, not the address to which it was sent."""

    def handle_no_permission(self, request, view_func):
        page = request.headers.get("Referer", "")
        here = url_has_allowed_host_and_scheme(page, {request.get_host()}, require_https=request.is_secure())
        if request.method == "POST" and here:
            parts = urlsplit(page)
            address = urlunsplit(("", "", parts.path, parts.query, ""))
            return redirect_to_login(address, self.get_login_url(view_func), REDIRECT_FIELD_NAME)
        return super().handle_no_permission(request, view_func)


class DemoSignInMiddleware:
    """Sign in the demo teacher without asking when the application runs for one person on one machine."""

    def __init__(self, get_response):
        self.get_response = get_response

    def __call__(self, request):
        if settings.DEMO and not request.user.is_authenticated and is_loopback(request):
            teacher = get_user_model().objects.filter(username=DEMO_TEACHER, is_active=True).first()
            if teacher is not None:
                login(request, teacher, backend="django.contrib.auth.backends.ModelBackend")
        return self.get_response(request)


def is_loopback(request):
    """Whether a request comes from this machine itself, not through a proxy on it."""
    if "HTTP_X_FORWARDED_FOR" in request.META or "HTTP_FORWARDED" in request.META:
        return False
    return _is_loopback(request.META.get("REMOTE_ADDR", ""))


def is_of_this_machine(host):
    """Whether what an address names can be reached from this machine alone."""
    name = urlsplit(f"//{host}").hostname or ""
    return name == "localhost" or _is_loopback(name)


def _is_loopback(name):
    try:
        return ipaddress.ip_address(name).is_loopback
    except ValueError:
        return False
