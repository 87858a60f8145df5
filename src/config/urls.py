"""Addresses of the whole application."""

from django.urls import include, path
from django.views.generic import RedirectView

urlpatterns = [
    path("", RedirectView.as_view(pattern_name="students:list"), name="home"),
    path("", include("passages.urls")),
    path("", include("bench.urls")),
    path("", include("overtones.urls")),
    path("", include("practice.urls")),
    path("", include("counting.urls")),
    path("", include("students.urls")),
    path("", include("catalogue.urls")),
    path("", include("jobs.urls")),
    path("", include("studio.urls")),
]

handler400 = "studio.views.bad_request"
handler403 = "studio.views.forbidden"
handler404 = "studio.views.not_found"
handler500 = "studio.views.server_error"
