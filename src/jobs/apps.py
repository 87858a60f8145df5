from django.apps import AppConfig


class JobsConfig(AppConfig):
    name = "jobs"
    verbose_name = "Work in the background"
