"""What teachers enter: a score, a tempo, a set-up."""

import re

from django import forms

from core.evidence.sources import ALL_SOURCES, Basis
from core.music.events import TEMPO_MAX_BPM, TEMPO_MIN_BPM
from core.music.intonation import EQUAL, HARMONY, KEY, ROOTS, root_words
from core.music.notation.formats import FILE_BYTES_LIMIT
from core.music.notation.score import Choices, Chord
from core.music.ornaments import LIVELY_PER_S
from core.routes.faults import STRANDS, WEIGHT_MAX
from core.routes.moved import SEMITONES
from passages import services
from studio.forms import DecimalField, a4_field, fitted_field, offered
from studio.queries import instruments_of
from studio.shipped import INSTRUMENTS, instrument

WRITTEN_OR_SOUNDING = [
    ("written", "Written for the instrument"),
    ("concert", "Concert pitch, as it sounds"),
]
PITCH_IS = [("file", "As the score says of itself"), *WRITTEN_OR_SOUNDING]
CHORDS = [
    (Chord.HIGHEST, "the highest"),
    (Chord.SECOND, "the second from above"),
    (Chord.LOWEST, "the lowest"),
]
GRID_WORDS = {2: "eighths", 3: "triplets of eighths", 4: "sixteenths", 6: "triplets of sixteenths"}
GRID_WORDS |= {8: "thirty-seconds", 12: "sixteenths and triplets"}
TEXT_LIMIT, FILES_LIMIT = 100_000, 20
ASKS_PITCH = "The score does not say whether it is written for the instrument or as it sounds. Choose one."


class ScoresInput(forms.FileInput):
    """Several files at once; the value is the first."""

    allow_multiple_selected = True

    def value_from_datadict(self, _data, files, name):
        return next(iter(files.getlist(name)), None)


class ScoreForm(forms.Form):
    """A score, uploaded or typed, and what of it is wanted; cleaning it reads it.

    Parameters
    ----------
    teacher : User
    to_keep : bool
        Whether it is about to be kept, so that nothing may be left open.
    """

    title = forms.CharField(max_length=200, required=False, help_text="empty: as in the score")
    instrument = forms.ChoiceField()
    student_name = forms.CharField(
        max_length=100,
        required=False,
        label="For a new student",
        help_text="a name, if they are not here yet",
    )
    pitch_is = forms.ChoiceField(choices=PITCH_IS, initial="file", label="The score is")
    file = forms.FileField(
        required=False,
        label="Scores: MusicXML, MIDI or ABC, up to 20 MB each",
        widget=ScoresInput({"accept": ".musicxml,.xml,.mxl,.mid,.midi,.abc,.txt", "multiple": True}),
    )
    text = forms.CharField(
        max_length=TEXT_LIMIT,
        required=False,
        strip=False,
        label="Or type it in ABC",
        widget=forms.Textarea({"rows": 7, "spellcheck": "false", "aria-describedby": "abc-help"}),
    )

    # What of the score is wanted; the preview offers what there is.
    asked_pitch = forms.ChoiceField(choices=WRITTEN_OR_SOUNDING, required=False)
    piece = forms.CharField(max_length=20, required=False)
    part = forms.CharField(max_length=60, required=False)
    voice = forms.CharField(max_length=20, required=False)
    chord = forms.ChoiceField(choices=CHORDS, required=False)
    play_out = forms.BooleanField(required=False)
    bars = forms.CharField(max_length=13, required=False)
    grid = forms.TypedChoiceField(
        choices=[(grid, words) for grid, words in GRID_WORDS.items()],
        coerce=int,
        empty_value=4,
        required=False,
    )

    def __init__(self, *args, teacher, to_keep=False, **kwargs):
        super().__init__(*args, **kwargs)
        self.to_keep = to_keep
        self.owned = {f"i{owned.pk}": owned for owned in instruments_of(teacher)}
        students = [(key, f"{owned.student.name}: {owned.name}") for key, owned in self.owned.items()]
        groups = [("Students", students)] if students else []
        self.fields["instrument"].choices = [*groups, ("Any instrument", list(INSTRUMENTS.items()))]

    def clean_file(self):
        files = self.files.getlist("file")
        if len(files) > FILES_LIMIT:
            raise forms.ValidationError(f"Bring in at most {FILES_LIMIT} files at once.", code="files")
        for file in files:
            if file.size > FILE_BYTES_LIMIT:
                raise forms.ValidationError(
                    "%(name)s must have at most %(limit)s MB, got %(size).1f MB; export the part worked on.",
                    code="size",
                    params={
                        "name": file.name,
                        "limit": FILE_BYTES_LIMIT // 1_000_000,
                        "size": file.size / 1e6,
                    },
                )
        self.others = files[1:]
        return files[0] if files else None

    def clean(self):
        cleaned = super().clean()
        if self.errors:
            return cleaned
        data = cleaned["file"].read() if cleaned.get("file") else cleaned["text"].encode()
        if not data.strip():
            raise forms.ValidationError("Choose a file or type a line of notes.", code="empty")
        owned = self.owned.get(cleaned["instrument"])
        if owned and cleaned["student_name"]:
            raise forms.ValidationError(
                {"instrument": "Choose what a new student plays among “Any instrument”."}, code="student"
            )
        cleaned["owned"], cleaned["model"] = owned, owned.model if owned else cleaned["instrument"]
        pitch_is = cleaned["pitch_is"]
        if pitch_is == "file" and cleaned.get("asked_pitch"):
            pitch_is = cleaned["asked_pitch"]
        cleaned["passage"], cleaned["notices"], cleaned["score"] = services.read_source(
            data, cleaned["model"], pitch_is, self._choices(cleaned)
        )
        transposes = instrument(cleaned["model"]).to_sounding.semitones % 12 != 0
        cleaned["silent"] = cleaned["score"].silent_on_pitch and transposes and cleaned["pitch_is"] == "file"
        if self.to_keep and cleaned["silent"] and pitch_is == "file":
            raise forms.ValidationError(ASKS_PITCH, code="pitch")
        return cleaned

    @staticmethod
    def _choices(cleaned):
        named = {name: cleaned[name] for name in ("piece", "part", "voice", "play_out", "grid")}
        match = re.fullmatch(r"\s*(\d{1,5})\s*(?:[-–]\s*(\d{1,5})\s*)?", cleaned["bars"])
        if cleaned["bars"] and not match:
            raise forms.ValidationError(
                "The bars must be given like 9-24, from the first to the last.", code="bars"
            )
        bars = tuple(sorted((int(match[1]), int(match[2] or match[1])))) if match else None
        return Choices(**named, bars=bars, chord=Chord(cleaned["chord"] or Chord.HIGHEST))


class DueForm(forms.Form):
    """By when a passage is to be played."""

    due = forms.DateField(label="Due", required=False, widget=forms.DateInput({"type": "date"}))


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


class InstrumentChoice(forms.ModelChoiceField):
    """A student's instrument, by the names of both."""

    def label_from_instance(self, owned):
        return f"{owned.student.name}: {owned.name}"


class CompareForm(forms.Form):
    """What a passage is compared with: another version, tempo, instrument of the same model, or school.

    Parameters
    ----------
    versions : iterable of State
        Those that may be chosen.
    in_hand : InstrumentInHand
        What the passage is for now.
    """

    AS_IS = "as here"

    def __init__(self, *args, passage, versions, in_hand, **kwargs):
        super().__init__(*args, **kwargs)
        self.passage, family = passage, in_hand.instrument.family
        words = [(state.number, state.name or f"{state.number}: {state.what}") for state in versions]
        self.fields["with"] = forms.TypedChoiceField(
            label="Compare with", choices=words, coerce=int, empty_value=None, required=False
        )
        self.fields["at"] = DecimalField(
            label="at ♩ =", min_value=TEMPO_MIN_BPM, max_value=TEMPO_MAX_BPM, required=False
        )
        others = instruments_of(passage.teacher).filter(model=passage.instrument)
        self.fields["on"] = InstrumentChoice(others, label="on", empty_label=self.AS_IS, required=False)
        schools = in_hand.schools
        taught = [(p.name, p.name) for q in schools.for_family(family) for p in q.positions_for(family)]
        self.fields["school"] = forms.ChoiceField(
            label="as one who teaches",
            choices=[("", self.AS_IS), *taught],
            required=False,
        )
        self.schools, self.positions = schools, in_hand.positions

    @property
    def other(self):
        """What `passages.queries.other_side` is asked."""
        cleaned, positions = self.cleaned_data, None
        if school := cleaned["school"]:
            question = self.schools.question_of[school]
            apart = {position.name for position in question.positions}
            positions = (self.positions - apart) | {school}
        return {"tempo_bpm": cleaned["at"], "owned": cleaned["on"], "positions": positions}


class MovedForm(forms.Form):
    """On which instrument other keys are tried, and how far music is moved that is adopted."""

    semitones = forms.TypedChoiceField(
        choices=[(n, n) for n in (0, *SEMITONES)], coerce=int, empty_value=0, required=False
    )

    def __init__(self, *args, passage, **kwargs):
        super().__init__(*args, **kwargs)
        family = instrument(passage.instrument).family
        models = [name for name in INSTRUMENTS if instrument(name).family == family]
        owned = instruments_of(passage.teacher).filter(model__in=models)
        self.fields["on"] = InstrumentChoice(
            owned, label="In other keys on", empty_label="the instrument that it is for", required=False
        )


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

    tuned_to = forms.ChoiceField(
        label="Held notes are tuned",
        choices=[
            (EQUAL, "in equal temperament"),
            (KEY, "just, to the key"),
            (HARMONY, "just, to the chord symbols"),
            *((str(root), f"just, to a drone or root on written {root_words(root)}") for root in ROOTS),
        ],
        required=False,
    )
    unison = forms.BooleanField(
        required=False, label="In unison with others: pitch counts in short notes too"
    )
    trills_per_s = forms.TypedChoiceField(
        label="Trills have about",
        choices=[(n, f"{n} notes a second") for n in range(6, 15, 2)],
        coerce=float,
        empty_value=LIVELY_PER_S,
        required=False,
    )

    def __init__(self, data=None, *, settings, instrument, owned):
        usual = {
            "tuned_to": settings.tuned_to,
            "unison": settings.unison,
            "trills_per_s": f"{settings.trills_per_s:g}",
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
        kept["tuned_to"] = self.cleaned_data["tuned_to"] or EQUAL
        kept |= {name: self.cleaned_data[name] for name in ("unison", "trills_per_s")}
        return kept | {"weights": {strand: self.cleaned_data[f"weight_{strand}"] for strand in STRANDS}}
