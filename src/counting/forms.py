"""What is typed to count: where a ladder begins, and where it goes."""

from django import forms

from counting.asked import TEMPI


class ClimbForm(forms.Form):
    """Where a climb begins, and where it goes."""

    start = forms.IntegerField(label="From ♩ =", min_value=TEMPI[0], max_value=TEMPI[-1], initial=60)
    target = forms.IntegerField(label="to", min_value=TEMPI[0], max_value=TEMPI[-1], initial=100)

    def clean(self):
        cleaned = super().clean()
        if cleaned.get("start", 0) > cleaned.get("target", TEMPI[-1]):
            raise forms.ValidationError("A ladder goes up: give the slower tempo first.", code="down")
        return cleaned
