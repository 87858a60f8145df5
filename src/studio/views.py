"""Pages for what cannot be shown: each says what happened and where to go on."""

from functools import wraps

from django.contrib.auth.views import LoginView
from django.core.exceptions import ValidationError
from django.http import Http404, HttpResponseServerError
from django.shortcuts import render
from django.template.loader import render_to_string
from django.urls import reverse
from django.views.decorators.http import require_GET

from studio import guide
from studio.logs import request_id


class SignIn(LoginView):
    """Signing in; an address that leads back here leads to the first page instead of round in a circle."""

    template_name = "studio/sign_in.html"
    redirect_authenticated_user = True

    def get_redirect_url(self):
        address = super().get_redirect_url()
        return "" if address.split("?")[0] == reverse("studio:sign-in") else address


@require_GET
def help_page(request, name=guide.PAGES[0]):
    pages = guide.pages()
    if name not in pages:
        raise Http404
    title, body = pages[name]
    contents = [(other, heading) for other, (heading, _) in pages.items()]
    return render(
        request, "studio/help.html", {"pages": contents, "name": name, "title": title, "body": body}
    )


def refused_on_a_page(view):
    """A view that says on a page of its own what it refuses, where there is no form to say it on."""

    @wraps(view)
    def shown(request, *args, **kwargs):
        try:
            return view(request, *args, **kwargs)
        except ValidationError as error:
            return _page(request, 422, "That cannot be shown", " ".join(error.messages))

    return shown


def _page(request, status, title, message):
    return render(request, "studio/problem.html", {"title": title, "message": message}, status=status)


def bad_request(request, exception=None):
    return _page(request, 400, "That could not be read", "Go back, check what was entered and try again.")


def forbidden(request, exception=None):
    return _page(request, 403, "Not yours to open", "Sign in as the teacher to whom this belongs.")


def form_expired(request, reason=""):
    return _page(request, 403, "This page was open too long", "Go back, reload the page and send it again.")


def not_found(request, exception=None):
    return _page(request, 404, "Nothing here", "It may have been deleted, or the link is not whole.")


def server_error(request):
    return HttpResponseServerError(render_to_string("studio/broken.html", {"id": request_id.get()}))
