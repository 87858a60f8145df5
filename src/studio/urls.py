from django.contrib.auth.views import LogoutView
from django.urls import path

from studio import bin_views, offline
from studio.views import SignIn, help_page

app_name = "studio"
urlpatterns = [
    path("sw.js", offline.worker, name="worker"),
    path("manifest.webmanifest", offline.manifest, name="manifest"),
    path("sign-in/", SignIn.as_view(), name="sign-in"),
    path("help/", help_page, name="help-home"),
    path("help/<slug:name>/", help_page, name="help"),
    path("bin/", bin_views.contents, name="bin"),
    path("bin/<int:pk>/back/", bin_views.bring_back, name="bin-back"),
    path("bin/<int:pk>/forget/", bin_views.forget, name="bin-forget"),
    path("bin/<str:kind>/<int:pk>/", bin_views.ask, name="bin-ask"),
    path("sign-out/", LogoutView.as_view(), name="sign-out"),
]
