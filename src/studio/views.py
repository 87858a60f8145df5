"""Pages for what cannot be shown: each says what happened and where to go on."""

from django.shortcuts import render


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
    return _page(request, 500, "Something went wrong here", "Nothing was saved half. Go back and try again.")
