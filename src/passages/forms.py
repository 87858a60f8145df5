"""What teachers enter: a score, a tempo, a set-up."""

from django import forms

from core.evidence.sources import ALL_SOURCES, Basis
from core.music.events import TEMPO_MAX_BPM, TEMPO_MIN_BPM
from core.music.notation.formats import FILE_BYTES_LIMIT
from core.routes.faults import STRANDS, WEIGHT_MAX
from passages import services
from studio.forms import DecimalField, a4_field, fitted_field, offered
from studio.queries import instruments_of
from studio.shipped import INSTRUMENTS

PITCH_IS = [
    ("file", "As the score says of itself"),
    ("written", "Written for the instrument"),
    ("concert", "Concert pitch, as it sounds"),
]
TEXT_LIMIT = 100_000


class ScoreForm(forms.Form):
    """A score, uploaded or typed; cleaning it reads it."""

    title = forms.CharField(max_length=200, required=False, help_text="empty: as in the score")
    instrument = forms.ChoiceField()
    pitch_is = forms.ChoiceField(choices=PITCH_IS, initial="file", label="The score is")
    file = forms.FileField(
        required=False,
        label="A score: MusicXML (.musicxml, .xml, .mxl) or ABC text, one part, up to 5 MB",
        widget=forms.FileInput({"accept": ".musicxml,.xml,.mxl,.abc,.txt"}),
    )
    text = forms.CharField(
        max_length=TEXT_LIMIT,
        required=False,
        strip=False,
        label="Or type it in ABC",
        widget=forms.Textarea({"rows": 7, "spellcheck": "false", "aria-describedby": "abc-help"}),
    )

    def __init__(self, *args, teacher, **kwargs):
        """`instrument` offers the teacher's students' instruments and every model."""
        super().__init__(*args, **kwargs)
        self.owned = {f"i{owned.pk}": owned for owned in instruments_of(teacher)}
        students = [(key, f"{owned.student.name}: {owned.name}") for key, owned in self.owned.items()]
        groups = [("Students", students)] if students else []
        self.fields["instrument"].choices = [*groups, ("Any instrument", list(INSTRUMENTS.items()))]

    def clean_file(self):
        file = self.cleaned_data["file"]
        if file and file.size > FILE_BYTES_LIMIT:
            raise forms.ValidationError(
                "The file must have at most %(limit)s MB, got %(size).1f MB; export the one part worked on.",
                code="size",
                params={"limit": FILE_BYTES_LIMIT // 1_000_000, "size": file.size / 1e6},
            )
        return file

    def clean(self):
        cleaned = super().clean()
        if self.errors:
            return cleaned
        data = cleaned["file"].read() if cleaned.get("file") else cleaned["text"].encode()
        if not data.strip():
            raise forms.ValidationError("Choose a file or type a line of notes.", code="empty")
        owned = self.owned.get(cleaned["instrument"])
        cleaned["owned"], cleaned["model"] = owned, owned.model if owned else cleaned["instrument"]
        cleaned["passage"], cleaned["notices"] = services.read_source(
            data, cleaned["model"], cleaned["pitch_is"]
        )
        return cleaned


class TempoForm(forms.Form):
    tempo_bpm = DecimalField(
        min_value=TEMPO_MIN_BPM,
        max_value=TEMPO_MAX_BPM,
        error_messages={
            "invalid": "The tempo must be a number of quarter notes a minute.",
            "required": "The tempo must be a number of quarter notes a minute.",
            "min_value": "The tempo must be at least %(limit_value)d quarter notes a minute.",
            "max_value": "The tempo must be at most %(limit_value)d quarter notes a minute.",
        },
    )
    by = forms.TypedChoiceField(
        choices=[(-4, "slower"), (4, "faster")], coerce=int, empty_value=0, required=False
    )

    def clean(self):
        """Faster or slower than what is typed, as far as tempi go."""
        cleaned = super().clean()
        if "tempo_bpm" in cleaned:
            wanted = cleaned["tempo_bpm"] + cleaned.get("by", 0)
            cleaned["tempo_bpm"] = min(max(wanted, TEMPO_MIN_BPM), TEMPO_MAX_BPM)
        return cleaned


class SetUpForm(forms.Form):
    """Tuning reference, fitted touches, what evidence counts, and how much each strand does.

    Parameters
    ----------
    settings : BenchSettings
        What holds until now.
    owned : OwnedInstrument or None
        A student's instrument says itself how it is tuned.
    """

    a4_hz = a4_field(label="Tuning, A in Hz")
    fitted = fitted_field()
    sources = forms.TypedMultipleChoiceField(
        required=False,
        choices=[(str(basis), basis.capitalize()) for basis in Basis if basis in ALL_SOURCES],
        widget=forms.CheckboxSelectMultiple,
        label="What counts",
    )

    def __init__(self, data=None, *, settings, instrument, owned):
        usual = {
            "a4_hz": f"{round(settings.a4_hz, 1):g}",
            "fitted": settings.fitted,
            "sources": settings.sources,
        }
        super().__init__(data, initial=usual)
        self.fields["fitted"].choices = offered(instrument)
        self.fields["a4_hz"].required = owned is None
        for strand in STRANDS:
            wrong = f"The weight of {strand.capitalize()} must be a number from 0 to {WEIGHT_MAX:g}."
            words = dict.fromkeys(("invalid", "required", "min_value", "max_value"), wrong)
            self.fields[f"weight_{strand}"] = DecimalField(
                min_value=0,
                max_value=WEIGHT_MAX,
                label=strand.capitalize(),
                initial=f"{settings.weights[strand]:g}",
                error_messages=words,
            )

    weight_max = WEIGHT_MAX

    @property
    def weights(self):
        """The field of every strand."""
        return [self[f"weight_{strand}"] for strand in STRANDS]

    @property
    def details(self):
        """The cleaned fields as the service asks for them."""
        kept = {name: self.cleaned_data[name] for name in ("a4_hz", "fitted", "sources")}
        return kept | {"weights": {strand: self.cleaned_data[f"weight_{strand}"] for strand in STRANDS}}
