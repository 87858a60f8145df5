"""What teachers enter: a score, a tempo, a set-up."""

import re

from django import forms

from core.music.notation.formats import FILE_BYTES_LIMIT
from core.music.notation.score import Choices, Chord
from passages import services
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
