"""What teachers enter of students, instruments and how they teach."""

from django import forms
from django.utils.text import capfirst

from core.errors import CoreError
from core.evidence.setups import Keeps
from core.instruments.hand import FINGERS, Hand
from core.instruments.naming import Naming
from core.music.pitch import A4_HZ_MAX, A4_HZ_MIN
from core.numbers import decimal
from studio import zones
from studio.models import NAMING, WEEK_BEGINS, WEEKDAYS, ZONE, Student
from studio.refusals import refuse
from studio.shipped import instrument, instrument_choices, schools

# How a form says that an instrument follows what its teacher does.
AS_TAUGHT, NONE = "as-taught", "none"


class DecimalField(forms.FloatField):
    """A number with a decimal point or a decimal comma; what may mean two things is asked back."""

    widget = forms.TextInput  # a browser's own field for numbers keeps a comma to itself

    def to_python(self, value):
        if value in self.empty_values:
            return None
        try:
            return decimal(str(value))
        except CoreError as error:
            if "two ways" in str(error):
                raise refuse(error, "ambiguous") from error
            raise forms.ValidationError(self.error_messages["invalid"], code="invalid") from error


def a4_field(**more):
    """A tuning reference."""
    return DecimalField(
        min_value=A4_HZ_MIN,
        max_value=A4_HZ_MAX,
        error_messages={
            "invalid": "A must be a number of Hz.",
            "required": "A must be a number of Hz.",
            "min_value": "A must be at least %(limit_value)d Hz.",
            "max_value": "A must be at most %(limit_value)d Hz.",
        },
        **more,
    )


def fitted_field():
    """What may be fitted on an instrument; `offered` gives its choices."""
    return forms.TypedMultipleChoiceField(
        required=False, widget=forms.CheckboxSelectMultiple, label="Fitted on this instrument"
    )


def offered(shipped):
    """The optional touches and fittings of an instrument, as choices of a form."""
    return [(name, capfirst(label)) for name, label in shipped.optional.items()]


class StudentForm(forms.ModelForm):
    small = forms.BooleanField(label="Small hand", required=False)
    no_half_holes = forms.BooleanField(label="Half-hole not learned yet", required=False)
    no_rollers = forms.BooleanField(label="Instrument without rollers", required=False)
    stiff = forms.MultipleChoiceField(
        choices=[(name, capfirst(name)) for name in FINGERS],
        label="Stiff fingers",
        required=False,
        widget=forms.CheckboxSelectMultiple,
        help_text="For pain or stiffness that lasts, a physician; this only chooses easier fingerings.",
    )

    def __init__(self, *args, **kwargs):
        super().__init__(*args, **kwargs)
        hand = Hand.from_json(self.instance.hand)
        self.initial |= {"small": hand.small, "stiff": sorted(hand.stiff)}
        self.initial |= {"no_half_holes": not hand.half_holes, "no_rollers": not hand.rollers}

    @property
    def particular(self):
        """What may be particular about the hands as a whole."""
        return [self["small"], self["no_half_holes"], self["no_rollers"]]

    @property
    def details(self):
        """What `studio.services.save_student` is asked."""
        cleaned = self.cleaned_data
        hand = Hand(
            small=cleaned["small"],
            stiff=frozenset(cleaned["stiff"]),
            half_holes=not cleaned["no_half_holes"],
            rollers=not cleaned["no_rollers"],
        )
        return {name: cleaned[name] for name in self.Meta.fields} | {"hand": hand.to_json()}

    class Meta:
        model = Student
        fields = ["name", "level", "notes"]
        help_texts = {
            "name": "or a desk of the band",
            "level": "How quick and sure the hands are taken to be; what is counted comes on top.",
        }
        widgets = {"notes": forms.Textarea({"rows": 4})}
        error_messages = {"name": {"required": "A student needs a name."}}


class InstrumentForm(forms.Form):
    """An instrument in hand; `model` is fixed once it is there.

    Parameters
    ----------
    taught : mapping of question to position
        What the teacher does, unless the instrument departs from it.
    kept : bool
        Whether the instrument is there already, so that another reed may keep something.
    """

    name = forms.CharField(max_length=100, error_messages={"required": "An instrument needs a name."})
    model = forms.ChoiceField(choices=instrument_choices)
    fitted = fitted_field()
    a4_hz = a4_field(initial=440, label="Tuning, A in Hz")
    reed = forms.CharField(max_length=100, required=False)
    mouthpiece = forms.CharField(max_length=100, required=False)
    keeps = forms.MultipleChoiceField(
        choices=[
            (Keeps.PITCH.value, "Pitch"),
            (Keeps.TONE.value, "Tone and colour"),
            (Keeps.SPEAKS.value, "How it speaks"),
        ],
        label="Still true from the set-up before",
        required=False,
        widget=forms.CheckboxSelectMultiple,
        help_text="What was heard before the change counts on for these; for the hands it always does.",
    )
    notes = forms.CharField(max_length=2000, required=False, label="How it plays")

    def __init__(self, *args, model, taught, kept=False, **kwargs):
        super().__init__(*args, **kwargs)
        self.shipped, self.kept = instrument(model), kept
        self.fields["model"].initial = model
        self.fields["mouthpiece"].label = capfirst(self.shipped.between)
        self.fields["fitted"].choices = offered(self.shipped)
        self.questions = schools().for_family(self.shipped.family)
        departs = self.initial.get("positions", {})
        for question in self.questions:
            positions = [(p.name, p.name) for p in question.positions_for(self.shipped.family)]
            usual = taught.get(question.name) or "no position"
            usual = usual if usual in dict(positions) else "no position"
            choices = [(AS_TAUGHT, f"as I teach it: {usual}"), *positions, (NONE, "no position here")]
            name = question.name
            answer = (departs[name] or NONE) if name in departs else AS_TAUGHT
            self.fields[_field(question)] = forms.ChoiceField(
                required=False, choices=choices, initial=answer, label=question.text
            )

    @property
    def position_fields(self):
        return [self[_field(question)] for question in self.questions]

    @property
    def details(self):
        """The cleaned fields without the model, as the services ask for them."""
        plain = ("name", "fitted", "a4_hz", "reed", "mouthpiece", "notes", *(["keeps"] if self.kept else []))
        answers = {q.name: self.cleaned_data[_field(q)] or AS_TAUGHT for q in self.questions}
        positions = {n: "" if a == NONE else a for n, a in answers.items() if a != AS_TAUGHT}
        return {name: self.cleaned_data[name] for name in plain} | {"positions": positions}


class TeachingForm(forms.Form):
    """The position that a teacher takes on each question."""

    def __init__(self, *args, taught, **kwargs):
        super().__init__(*args, **kwargs)
        self.questions = schools().questions
        for question in self.questions:
            positions = [(position.name, position.name) for position in question.positions]
            self.fields[_field(question)] = forms.ChoiceField(
                required=False,
                choices=[("", "no position"), *positions],
                initial=taught.get(question.name, ""),
                label=question.text,
                widget=forms.RadioSelect,
            )
        self.fields["naming"] = forms.ChoiceField(
            required=False,
            choices=[(naming.value, naming.value) for naming in Naming],
            initial=taught.get(NAMING) or Naming.EACH_HAND,
            widget=forms.RadioSelect,
            label="How touches are named, on screen and on sheets",
        )

        self.fields["zone"] = forms.ChoiceField(
            required=False,
            choices=[
                ("", "this browser"),
                *((name, name.replace("_", " ")) for name in zones.names()),
            ],
            initial=taught.get(ZONE, ""),
            label="Days are told by the clock of",
        )
        self.fields["week"] = forms.ChoiceField(
            required=False,
            choices=[(day, day) for day in WEEKDAYS],
            initial=taught.get(WEEK_BEGINS) or WEEKDAYS[0],
            label="Weeks begin on",
        )

    @property
    def asked(self):
        """Every question with its field and its positions."""
        return [(question, self[_field(question)]) for question in self.questions]

    @property
    def answers(self):
        positions = {question.name: self.cleaned_data[_field(question)] for question in self.questions}
        own = {NAMING: "naming", ZONE: "zone", WEEK_BEGINS: "week"}
        return positions | {question: self.cleaned_data[name] for question, name in own.items()}


def _field(question):
    return "school_" + question.name.replace(" ", "_")
