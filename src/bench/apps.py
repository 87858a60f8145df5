from django.apps import AppConfig


class BenchConfig(AppConfig):
    name = "bench"
    verbose_name = "Choosing in a passage"
