"""What teachers enter of students and instruments."""

from django import forms

from core.charts.catalogue import SCHOOLS
from core.music.pitch import A4_HZ_MAX, A4_HZ_MIN
from studio.models import Student
from studio.shipped import INSTRUMENTS, instrument


class StudentForm(forms.ModelForm):
    class Meta:
        model = Student
        fields = ["name", "level", "notes"]
        error_messages = {"name": {"required": "A student needs a name."}}


class InstrumentForm(forms.Form):
    """An instrument in hand; `model` is fixed once it is there."""

    name = forms.CharField(max_length=100, error_messages={"required": "An instrument needs a name."})
    model = forms.ChoiceField(choices=list(INSTRUMENTS.items()))
    fitted = forms.TypedMultipleChoiceField(required=False)
    a4_hz = forms.FloatField(
        min_value=A4_HZ_MIN,
        max_value=A4_HZ_MAX,
        initial=440,
        error_messages={
            "invalid": "A must be a number of Hz.",
            "required": "A must be a number of Hz.",
            "min_value": "A must be at least %(limit_value)d Hz.",
            "max_value": "A must be at most %(limit_value)d Hz.",
        },
    )
    reed = forms.CharField(max_length=100, required=False)
    mouthpiece = forms.CharField(max_length=100, required=False)
    notes = forms.CharField(max_length=2000, required=False)
    school = forms.ChoiceField(required=False)

    def __init__(self, *args, model, **kwargs):
        super().__init__(*args, **kwargs)
        self.shipped = instrument(model)
        self.fields["model"].initial = model
        self.fields["fitted"].choices = list(self.shipped.optional.items())
        self.question, positions = SCHOOLS.get(self.shipped.family, ("", ()))
        self.fields["school"].choices = [("", "no preference"), *((name, name) for name in positions)]

    @property
    def options(self):
        """What may be fitted, each with its label and whether it is ticked."""
        ticked = self["fitted"].value() or []
        return [(name, label, name in ticked) for name, label in self.shipped.optional.items()]

    @property
    def details(self):
        """The cleaned fields without the model."""
        return {name: value for name, value in self.cleaned_data.items() if name != "model"}
