from django.urls import path

from practice import views

app_name = "practice"
urlpatterns = [
    path("practice/reach/", views.reach, name="reach"),
    path("practice/reach/guess/", views.guess, name="guess"),
    path("practice/plan/", views.plan, name="plan"),
    path("practice/plan/set/", views.set_plan, name="set-plan"),
    path("practice/plan/begin/", views.begin, name="begin"),
    path("practice/count/", views.count, name="count"),
    path("practice/log/", views.log, name="log"),
    path("practice/take/attempts.<str:form>", views.take, name="take"),
    path("practice/bring/", views.bring, name="bring"),
    path("practice/back/", views.back, name="back"),
]
