// A metronome for the stand: clicks by Web Audio, a light with them, a bar to count in, beats divided.
const AHEAD_S = 0.1; // what is scheduled before it sounds, so that a busy page does not limp
const LOOK_MS = 25;
const LIT_S = 0.09;
const SOUNDS = { bar: [1568, 0.22], beat: [1047, 0.16], part: [784, 0.07] }; // hertz, loudness

export const metronome = () => ({
  running: false,
  lit: false,
  strong: false,
  word: "",
  due: [],
  timer: 0,
  frame: 0,

  get words() { return this.running ? "Stop the metronome" : "Metronome"; },
  get light() { return { "bg-accent": this.lit, "ring-4": this.lit && this.strong }; },

  init() {
    this.follow = () => {
      const step = document.querySelector("[data-step-bpm]")?.dataset.stepBpm;
      if (step && step !== this.step) this.$root.querySelector("[name=bpm]").value = step;
      this.step = step;
    };
    document.addEventListener("htmx:after:swap", this.follow);
    this.follow();
  },

  // What is set in the fields, within bounds; read anew at every click, so that a change is heard at once.
  setting(name, least, most) {
    const value = Number(this.$root.querySelector(`[name=${name}]`).value);
    return Math.min(Math.max(value || least, least), most);
  },

  toggle() {
    if (this.running) return this.stop();
    this.context ??= new AudioContext();
    this.context.resume();
    this.running = true;
    this.at = 0;
    this.next = this.context.currentTime + AHEAD_S;
    this.timer = setInterval(() => this.look(), LOOK_MS);
    this.frame = requestAnimationFrame(() => this.show());
  },

  stop() {
    clearInterval(this.timer);
    cancelAnimationFrame(this.frame);
    this.running = this.lit = false;
    this.word = "";
    this.due = [];
  },

  look() {
    while (this.next < this.context.currentTime + AHEAD_S) {
      const [parts, beats] = [this.setting("parts", 1, 4), this.setting("beats", 1, 12)];
      const [beat, part] = [Math.floor(this.at / parts), this.at % parts];
      const kind = part ? "part" : beat % beats ? "beat" : "bar";
      this.click(kind);
      const counting = beat < beats ? `Count in ${beat + 1}` : "Play";
      if (!part) this.due.push({ time: this.next, strong: kind === "bar", word: counting });
      this.next += 60 / this.setting("bpm", 20, 400) / parts;
      this.at += 1;
    }
  },

  click(kind) {
    const [hertz, loud] = SOUNDS[kind];
    const [tone, gain] = [this.context.createOscillator(), this.context.createGain()];
    tone.frequency.value = hertz;
    gain.gain.setValueAtTime(loud, this.next);
    gain.gain.exponentialRampToValueAtTime(0.001, this.next + 0.04);
    tone.connect(gain).connect(this.context.destination);
    tone.start(this.next);
    tone.stop(this.next + 0.05);
  },

  show() {
    const now = this.context.currentTime;
    while (this.due.length && this.due[0].time <= now) {
      this.last = this.due.shift();
      this.word = this.last.word;
      this.strong = this.last.strong;
    }
    this.lit = Boolean(this.last) && now - this.last.time < LIT_S;
    this.frame = requestAnimationFrame(() => this.show());
  },

  destroy() {
    document.removeEventListener("htmx:after:swap", this.follow);
    this.stop();
  },
});
