from django.apps import AppConfig


class OvertonesConfig(AppConfig):
    name = "overtones"
    verbose_name = "Overtones and the acoustic model"
