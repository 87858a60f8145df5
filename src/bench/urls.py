from django.urls import path

from bench import views

app_name = "bench"
urlpatterns = [
    path("passages/<int:pk>/", views.bench, name="bench"),
    path("passages/<int:pk>/change/", views.change, name="change"),
    path("passages/<int:pk>/take/passage.<str:form>", views.download, name="download"),
    path("passages/<int:pk>/lines/", views.lines, name="lines"),
    path("passages/<int:pk>/tempo/", views.tempo, name="tempo"),
    path("passages/<int:pk>/ways/", views.ways, name="ways"),
    path("passages/<int:pk>/trouble/", views.trouble, name="trouble"),
    path("passages/<int:pk>/compare/", views.compare, name="compare"),
    path("passages/<int:pk>/elsewhere/", views.elsewhere, name="elsewhere"),
    path("passages/<int:pk>/adopt/", views.adopt, name="adopt"),
    path("passages/<int:pk>/ossia/", views.ossia, name="ossia"),
    path("passages/<int:pk>/lesson/", views.lesson, name="lesson"),
    path("passages/<int:pk>/sheet/", views.sheet, name="sheet"),
]
