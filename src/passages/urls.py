from django.urls import path

from passages import count_views, drill_views, entry_views, views

app_name = "passages"
urlpatterns = [
    path("", views.passage_list, name="list"),
    path("new/", views.new_passage, name="new"),
    path("preview/", views.preview, name="preview"),
    path("enter/", entry_views.enter, name="enter"),
    path("<int:pk>/", views.bench, name="bench"),
    path("<int:pk>/change/", views.change, name="change"),
    path("<int:pk>/notes/", entry_views.notes, name="notes"),
    path("<int:pk>/take/passage.<str:form>", views.take, name="take"),
    path("<int:pk>/lines/", views.lines, name="lines"),
    path("<int:pk>/tempo/", views.tempo, name="tempo"),
    path("<int:pk>/ways/", views.ways, name="ways"),
    path("<int:pk>/trouble/", views.trouble, name="trouble"),
    path("<int:pk>/compare/", views.compare, name="compare"),
    path("<int:pk>/elsewhere/", views.moved, name="moved"),
    path("<int:pk>/adopt/", views.adopt, name="adopt"),
    path("<int:pk>/ossia/", views.ossia, name="ossia"),
    path("<int:pk>/lesson/", views.lesson, name="lesson"),
    path("drills/", drill_views.of_note, name="note-drills"),
    path("<int:pk>/drills/", drill_views.of_spot, name="drills"),
    path("<int:pk>/count/", count_views.count, name="count"),
    path("<int:pk>/count/back/", count_views.count_back, name="count-back"),
    path("<int:pk>/sheet/", views.sheet, name="sheet"),
    path("<int:pk>/due/", views.due, name="due"),
    path("<int:pk>/delete/", views.delete, name="delete"),
]
