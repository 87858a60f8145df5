from django.urls import path

from practice import drill_views, spot_views, views

app_name = "practice"
urlpatterns = [
    path("practice/reach/", views.reach, name="reach"),
    path("practice/reach/guess/", views.guess, name="guess"),
    path("practice/plan/", views.plan, name="plan"),
    path("practice/plan/set/", views.set_plan, name="set-plan"),
    path("practice/plan/begin/", views.begin, name="begin"),
    path("practice/count/", views.count, name="count"),
    path("practice/log/", views.log, name="log"),
    path("practice/take/attempts.<str:form>", views.download, name="download"),
    path("practice/bring/", views.bring, name="bring"),
    path("practice/back/", views.back, name="back"),
    path("passages/drills/", drill_views.of_note, name="note-drills"),
    path("passages/<int:pk>/drills/", drill_views.of_spot, name="drills"),
    path("passages/<int:pk>/count/", spot_views.count, name="count-spot"),
    path("passages/<int:pk>/count/back/", spot_views.count_back, name="count-spot-back"),
]
