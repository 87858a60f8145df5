from django.urls import path

from jobs import views

app_name = "jobs"
urlpatterns = [
    path("work/<int:pk>/", views.job, name="job"),
    path("work/<int:pk>/cancel/", views.cancel, name="cancel"),
]
