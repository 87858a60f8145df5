from django.apps import AppConfig


class StudioConfig(AppConfig):
    name = "studio"
    verbose_name = "Teachers and signing in"
