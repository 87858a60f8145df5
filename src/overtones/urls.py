from django.urls import path

from overtones import views

app_name = "overtones"
urlpatterns = [
    path("overtones/", views.overtones, name="overtones"),
    path("overtones/tone.wav", views.tone, name="tone"),
    path("fingerings/near/", views.near, name="near"),
]
