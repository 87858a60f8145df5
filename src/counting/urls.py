from django.urls import path

from counting import views

app_name = "counting"
urlpatterns = [
    path("practice/count/", views.count, name="count"),
    path("practice/count/presses/", views.presses, name="presses"),
    path("practice/counted/", views.counted, name="counted"),
    path("passages/<int:pk>/count/", views.open_spot, name="spot"),
]
