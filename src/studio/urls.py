from django.contrib.auth.views import LogoutView
from django.urls import path

from studio.views import SignIn, help_page

app_name = "studio"
urlpatterns = [
    path("sign-in/", SignIn.as_view(), name="sign-in"),
    path("help/", help_page, name="help-home"),
    path("help/<slug:name>/", help_page, name="help"),
    path("sign-out/", LogoutView.as_view(), name="sign-out"),
]
