"""What teachers enter of a fingering."""

from django import forms

from evidence.models import JudgementMade


class JudgementForm(forms.ModelForm):
    class Meta:
        model = JudgementMade
        fields = ["pitch", "tone", "colour", "speaks", "hands", "remark"]
