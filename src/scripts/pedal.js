// Two pedals or keys for any number of choices: one goes along them, the other takes the one it stands on.
export const pedal = () => ({
  choices() {
    return [...this.$root.querySelectorAll("[data-choice]:not(:disabled)")];
  },

  along() {
    const choices = this.choices();
    choices[(choices.indexOf(document.activeElement) + 1) % choices.length].focus();
  },

  take() {
    const here = document.activeElement;
    if (here.matches("[data-choice]")) here.click();
    else this.along();
  },
});
