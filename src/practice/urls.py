from django.urls import path

from practice import drill_views, views

app_name = "practice"
urlpatterns = [
    path("practice/reach/", views.reach, name="reach"),
    path("practice/reach/guess/", views.guess, name="guess"),
    path("practice/plan/", views.plan, name="plan"),
    path("practice/plan/set/", views.set_plan, name="set-plan"),
    path("practice/plan/begin/", views.begin, name="begin"),
    path("practice/take/attempts.<str:form>", views.download, name="download"),
    path("practice/bring/", views.bring, name="bring"),
    path("passages/drills/", drill_views.of_note, name="note-drills"),
    path("passages/<int:pk>/drills/", drill_views.of_spot, name="drills"),
]
