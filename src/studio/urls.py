from django.contrib.auth import views as auth_views
from django.urls import path

sign_in = auth_views.LoginView.as_view(template_name="studio/sign_in.html", redirect_authenticated_user=True)
app_name = "studio"
urlpatterns = [
    path("sign-in/", sign_in, name="sign-in"),
    path("sign-out/", auth_views.LogoutView.as_view(), name="sign-out"),
]
