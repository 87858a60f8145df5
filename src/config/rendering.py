"""How forms are written: fields with their labels, help and errors, by our own template."""

from django.forms.renderers import TemplatesSetting


class FormRenderer(TemplatesSetting):
    field_template_name = "components/_field.html"
