from django.urls import path

from students import sheet_views, views

app_name = "students"
urlpatterns = [
    path("students/", views.students, name="list"),
    path("students/<int:pk>/", views.student, name="student"),
    path("students/next-week/", views.next_week, name="next-week"),
    path("students/sheet/", sheet_views.sheet, name="sheet"),
    path("students/sheet.pdf", sheet_views.sheet_pdf, name="sheet-pdf"),
    path("students/pages/make/", sheet_views.make_page, name="make-page"),
    path("students/pages/<int:pk>/revoke/", sheet_views.revoke_page, name="revoke-page"),
    path("for/<str:token>/", sheet_views.show_page, name="for-student"),
    path("for/<str:token>/presses/", sheet_views.presses_on_page, name="for-student-presses"),
    path("for/<str:token>/log/", sheet_views.log_on_page, name="for-student-log"),
    path("students/log/", views.log, name="log"),
    path("students/week/", views.week, name="week"),
    path("students/week.ics", views.week_calendar, name="week-calendar"),
]
