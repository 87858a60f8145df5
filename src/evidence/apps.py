from django.apps import AppConfig


class EvidenceConfig(AppConfig):
    name = "evidence"
    verbose_name = "What was judged, read and preferred on students' instruments"
