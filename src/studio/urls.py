from django.contrib.auth.views import LogoutView
from django.urls import path

from studio.views import SignIn

app_name = "studio"
urlpatterns = [
    path("sign-in/", SignIn.as_view(), name="sign-in"),
    path("sign-out/", LogoutView.as_view(), name="sign-out"),
]
