from django.apps import AppConfig


class CatalogueConfig(AppConfig):
    name = "catalogue"
    verbose_name = "Instruments and fingerings"

    def ready(self):
        from catalogue import checks  # noqa: F401 -- registers itself
