from django.apps import AppConfig


class CountingConfig(AppConfig):
    name = "counting"
    verbose_name = "Counting"
