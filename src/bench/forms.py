"""What teachers set on the bench: a tempo, a set-up, what a passage is held against."""

from django import forms

from bench.services import NOTE, OVER
from core.evidence.sources import ALL_SOURCES, Basis
from core.music.aims import Aim
from core.music.events import TEMPO_MAX_BPM, TEMPO_MIN_BPM
from core.music.intonation import EQUAL, HARMONY, KEY, ROOTS, root_words
from core.music.ornaments import LIVELY_PER_S
from core.routes.elsewhere import SEMITONES
from core.routes.faults import STRANDS, WEIGHT_MAX
from studio.forms import DecimalField, a4_field, fitted_field, offered
from studio.queries import instruments_of
from studio.shipped import family_of


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


AIM_WORDS = {one: one.value for one in Aim}
AIM_WORDS |= {Aim.IN_TUNE: "in tune above all", Aim.EASIEST: "easiest above all"}


class AimForm(forms.Form):
    """What is aimed at in a note, and how far that goes."""

    aim = forms.TypedChoiceField(
        label="Aim",
        choices=[("", "plain"), *((one.value, words) for one, words in AIM_WORDS.items())],
        coerce=Aim,
        empty_value="",
        required=False,
        error_messages={"invalid_choice": "Choose one of the aims that are offered."},
    )
    over = forms.ChoiceField(
        label="over",
        choices=[(one, one) for one in OVER],
        initial=NOTE,
        error_messages={"invalid_choice": "Say whether it is for this note, its phrase or all."},
    )


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
        """What `bench.queries.other_side` is asked."""
        cleaned, positions = self.cleaned_data, None
        if school := cleaned["school"]:
            question = self.schools.question_of[school]
            apart = {position.name for position in question.positions}
            positions = (self.positions - apart) | {school}
        return {"tempo_bpm": cleaned["at"], "owned": cleaned["on"], "positions": positions}


class ElsewhereForm(forms.Form):
    """On which instrument other keys are tried, and how far music is moved that is adopted."""

    semitones = forms.TypedChoiceField(
        choices=[(n, n) for n in (0, *SEMITONES)], coerce=int, empty_value=0, required=False
    )

    def __init__(self, *args, passage, **kwargs):
        super().__init__(*args, **kwargs)
        owned = instruments_of(passage.teacher).filter(model__in=family_of(passage.instrument))
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
