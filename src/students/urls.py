from django.urls import path

from students import views

app_name = "students"
urlpatterns = [
    path("students/week/", views.week, name="week"),
    path("students/week.ics", views.week_calendar, name="week-calendar"),
]
