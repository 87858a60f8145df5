// The lesson: notes one after the other in tempo, with a light on every beat.
import htmx from "htmx.org";

export const lesson = () => ({
  running: false,
  lit: false,
  frame: 0,

  get words() { return this.running ? "Stop" : "In tempo"; },
  get light() { return { "bg-accent": this.lit }; },

  run() {
    this.running = !this.running;
    cancelAnimationFrame(this.frame);
    this.lit = false;
    if (!this.running) return;
    const { times, beat } = this.$root.dataset;
    const notes = JSON.parse(times);
    const shown = () => this.$root.querySelector("[data-note]").dataset.note;
    const start = notes.find(([id]) => id === shown())?.[1] ?? 0;
    const begun = performance.now();
    let at = shown();
    const tick = (now) => {
      const here = start + (now - begun) / 1000;
      this.lit = ((here - start) / beat) % 1 < 0.25;
      const reached = notes.filter(([id, second]) => id && second <= here).at(-1)?.[0];
      if (here >= notes.at(-1)[1]) return this.run();
      if (reached && reached !== at) {
        at = reached;
        htmx.ajax("GET", `?state=${this.$root.dataset.state}&note=${at}`, { source: "#lesson-frame" });
      }
      this.frame = requestAnimationFrame(tick);
    };
    this.frame = requestAnimationFrame(tick);
  },

  destroy() { cancelAnimationFrame(this.frame); },
});
