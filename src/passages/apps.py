from django.apps import AppConfig


class PassagesConfig(AppConfig):
    name = "passages"
    verbose_name = "Passages and routes"
