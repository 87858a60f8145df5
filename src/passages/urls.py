from django.urls import path

from passages import entry_views, views

app_name = "passages"
urlpatterns = [
    path("passages/", views.passage_list, name="list"),
    path("passages/new/", views.new_passage, name="new"),
    path("passages/preview/", views.preview, name="preview"),
    path("passages/enter/", entry_views.enter, name="enter"),
    path("passages/<int:pk>/notes/", entry_views.notes, name="notes"),
    path("passages/<int:pk>/due/", views.due, name="due"),
    path("passages/<int:pk>/delete/", views.delete, name="delete"),
]
