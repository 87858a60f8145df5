"""What teachers enter of fingerings: ratings, a fingering of their own, a chart, a walk."""

from django import forms

from catalogue.models import OwnFingering
from core.charts.chart_format import CHART_BYTES_LIMIT
from core.errors import CoreError
from core.music.pitch import parse_pitch, spell
from core.music.scale import MODES, TONICS, tonic_name
from studio.forms import DecimalField
from studio.refusals import refuse


class OwnForm(forms.ModelForm):
    """A fingering of the teacher's own; the checks are made where it is saved."""

    cents = DecimalField(
        required=False, label="Tendency, cents", help_text="sharp is positive; empty: unknown"
    )
    cents_low = DecimalField(required=False, label="from")
    cents_high = DecimalField(required=False, label="to")
    touches = forms.CharField(
        max_length=200,
        help_text="a dot or a bar parts the hands; 1½ is a half hole; open is none",
        error_messages={"required": "Name the touches, or open."},
    )

    class Meta:
        model = OwnFingering
        fields = [
            *("note", "touches", "kind", "cents", "cents_low", "cents_high"),
            *("tone", "speaks", "good_for", "avoid_when", "only_from", "confidence", "reason"),
        ]
        error_messages = {"note": {"required": "Name the note, such as B♭4."}}
        labels = {
            "note": "Written note",
            "only_from": "Good only from",
            "reason": "Why you keep it, if the keywork says otherwise",
        }
        help_texts = {
            "note": "such as B♭4 or F#6",
            "only_from": "what the fingering before must hold; empty: from anywhere",
        }

    def __init__(self, *args, **kwargs):
        super().__init__(*args, **kwargs)
        for name, unsaid in (("kind", "choose"), ("tone", "unknown"), ("speaks", "unknown")):
            known = self.fields[name].choices[1:]
            self.fields[name].choices = [("", unsaid), *known]

    def _get_validation_exclusions(self):
        # Whether it is there already is for `services.save_own` to say, in its own words.
        return {*super()._get_validation_exclusions(), "teacher", "model"}


class ChartForm(forms.Form):
    """A chart to audit: a file, or its text as it comes back when rows are chosen."""

    file = forms.FileField(
        required=False,
        label="A fingering chart, CSV or JSON, up to 1 MB",
        widget=forms.FileInput({"accept": ".csv,.json,.txt,.tsv"}),
    )
    text = forms.CharField(
        required=False,
        strip=False,
        max_length=CHART_BYTES_LIMIT,
        label="Or paste it",
        widget=forms.Textarea({"rows": 5, "spellcheck": "false", "aria-describedby": "chart-help"}),
    )

    def clean_file(self):
        file = self.cleaned_data["file"]
        if file and file.size > CHART_BYTES_LIMIT:
            raise forms.ValidationError(
                "A chart must have at most 1 MB, got %(size).1f MB; split it.",
                code="size",
                params={"size": file.size / 1e6},
            )
        return file

    def clean(self):
        cleaned = super().clean()
        if self.errors:
            return cleaned
        data = cleaned["file"].read() if cleaned.get("file") else cleaned["text"].encode()
        if not data.strip():
            raise forms.ValidationError("Choose a chart: a CSV or JSON file.", code="empty")
        cleaned["data"] = data
        return cleaned


class WalkForm(forms.Form):
    """A scale: key, kind and range."""

    tonic = forms.ChoiceField(choices=[(tonic, tonic_name(tonic)) for tonic in TONICS], label="Written key")
    mode = forms.ChoiceField(choices=[(mode, mode) for mode in MODES], label="Scale")
    low = forms.CharField(max_length=6, label="From", widget=forms.TextInput({"size": 5}))
    high = forms.CharField(max_length=6, label="to", widget=forms.TextInput({"size": 5}))
    way = forms.ChoiceField(choices=[("up", "up"), ("down", "down")], label="Going")

    def __init__(self, data, *, instrument):
        """`data` may leave out what is then usual: C major upward, two octaves from the first C."""
        super().__init__(
            self._usual(instrument) | {name: data[name] for name in self.base_fields if name in data}
        )
        self.instrument = instrument

    @staticmethod
    def _usual(instrument):
        low = next(midi for midi in instrument.semitones if midi % 12 == 0)
        high = min(low + 24, instrument.written_high.midi)
        return {
            "tonic": "C",
            "mode": "major",
            "way": "up",
            "low": spell(low).ascii,
            "high": spell(high).ascii,
        }

    @property
    def scale(self):
        """What to walk, once it is clean."""
        asked = {name: self.cleaned_data[name] for name in ("tonic", "mode", "low", "high")}
        return asked | {"down": self.cleaned_data["way"] == "down"}

    def clean(self):
        cleaned = super().clean()
        if self.errors:
            return cleaned
        try:
            low, high = parse_pitch(cleaned["low"]), parse_pitch(cleaned["high"])
        except CoreError as error:
            raise refuse(error, "pitch") from error
        if low.midi > high.midi:
            low, high = high, low
        for pitch in (low, high):
            if not self.instrument.accepts(pitch):
                raise forms.ValidationError(
                    f"The range must lie from {self.instrument.accepted_span}.", code="range"
                )
        return {**cleaned, "low": low, "high": high}
