"""What is typed to count: where a ladder begins, and where it goes."""

from django import forms

from bench.forms import InstrumentChoice
from core.music.pitch import spell
from counting.asked import TEMPI
from studio.queries import instruments_of


class ClimbForm(forms.Form):
    """Where a climb begins, and where it goes."""

    start = forms.IntegerField(label="From ♩ =", min_value=TEMPI[0], max_value=TEMPI[-1], initial=60)
    target = forms.IntegerField(label="to", min_value=TEMPI[0], max_value=TEMPI[-1], initial=100)

    def clean(self):
        cleaned = super().clean()
        if cleaned.get("start", 0) > cleaned.get("target", TEMPI[-1]):
            raise forms.ValidationError("A ladder goes up: give the slower tempo first.", code="down")
        return cleaned


class MendForm(forms.Form):
    """Where what was counted belongs: another student's instrument, another fingering, another day."""

    def __init__(self, data=None, *, at):
        super().__init__(data)
        others = instruments_of(at.owned.teacher).filter(model=at.owned.model).exclude(pk=at.owned.pk)
        self.fields["to"] = InstrumentChoice(
            others, label="To", empty_label="this instrument", required=False
        )
        in_hand = at.in_hand
        named = [
            (one.id, f"{spell(one.note.midi)}: {one.kind_words} ({in_hand.said(one.fingering)})")
            for one in in_hand.catalogue.entries
            if not in_hand.lacking(one)
        ]
        self.fields["entry"] = forms.ChoiceField(
            label="Fingering", choices=[("", "as it was said"), *named], required=False
        )
        self.fields["day"] = forms.DateField(
            label="Day", required=False, widget=forms.DateInput({"type": "date"}, format="%Y-%m-%d")
        )
