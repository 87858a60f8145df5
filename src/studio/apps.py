import logging

from django.apps import AppConfig
from django.contrib.auth.signals import user_logged_in, user_logged_out, user_login_failed

security = logging.getLogger("security.sign-in")


class StudioConfig(AppConfig):
    name = "studio"
    verbose_name = "Teachers and signing in"

    def ready(self):
        user_logged_in.connect(_signed_in)
        user_logged_out.connect(_signed_out)
        user_login_failed.connect(_refused)


def _signed_in(request, user, **_):
    security.info("teacher %s signed in from %s", user.pk, _where(request))


def _signed_out(request, user, **_):
    security.info("teacher %s signed out from %s", user.pk if user else "-", _where(request))


def _refused(request=None, **_):
    """The name is left out: people type passwords there."""
    security.warning("a sign-in from %s was refused", _where(request))


def _where(request):
    return request.META.get("REMOTE_ADDR", "-") if request is not None else "-"
