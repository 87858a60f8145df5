from django.urls import path
from django.views.generic import RedirectView

from catalogue import instrument_views, trial_views, views

app_name = "catalogue"
urlpatterns = [
    path("instruments/", RedirectView.as_view(pattern_name="students:list"), name="instruments"),
    path("instruments/teaching/", instrument_views.teaching, name="teaching"),
    path("instruments/students/new/", instrument_views.student, name="student-new"),
    path("instruments/students/<int:pk>/", instrument_views.student, name="student"),
    path("instruments/students/<int:pk>/delete/", instrument_views.delete_student, name="student-delete"),
    path("instruments/students/<int:student>/new/", instrument_views.new_instrument, name="instrument-new"),
    path("instruments/<int:pk>/", instrument_views.instrument, name="instrument"),
    path("instruments/<int:pk>/delete/", instrument_views.delete_instrument, name="instrument-delete"),
    path("fingerings/", views.library, name="library"),
    path("fingerings/note/", views.note, name="note"),
    path("fingerings/trial/", trial_views.begin, name="trial-begin"),
    path("fingerings/trial/<int:pk>/", trial_views.trial, name="trial"),
    path("fingerings/trial/<int:pk>/answer/", trial_views.answer, name="trial-answer"),
    path("fingerings/note/change/", views.change, name="change"),
    path("fingerings/own/", views.own, name="own-new"),
    path("fingerings/own/<int:pk>/", views.own, name="own"),
    path("fingerings/own/<int:pk>/delete/", views.delete_own, name="own-delete"),
    path("fingerings/walk/", views.walk, name="walk"),
    path("fingerings/audit/", views.audit, name="audit"),
    path("fingerings/chart.<str:form>", views.chart, name="chart"),
]
