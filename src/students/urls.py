from django.urls import path

from students import views

app_name = "students"
urlpatterns = [
    path("students/", views.students, name="list"),
    path("students/<int:pk>/", views.student, name="student"),
    path("students/next-week/", views.next_week, name="next-week"),
    path("students/log/", views.log, name="log"),
    path("students/week/", views.week, name="week"),
    path("students/week.ics", views.week_calendar, name="week-calendar"),
]
