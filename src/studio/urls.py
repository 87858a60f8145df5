from django.contrib.auth import views as auth_views
from django.urls import path

app_name = "studio"
urlpatterns = [
    path("sign-in/", auth_views.LoginView.as_view(template_name="studio/sign_in.html"), name="sign-in"),
    path("sign-out/", auth_views.LogoutView.as_view(), name="sign-out"),
]
