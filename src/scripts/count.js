// Count mode: each tap is kept here until it is kept there; what cannot be sent waits, and is sent again.
import htmx from "htmx.org";
import { say } from "./parts.js";

const KEPT = "attempts waiting"; // in the browser's own store: it outlives the page
const AGAIN_MS = 5000;

const read = () => {
  try {
    return JSON.parse(localStorage.getItem(KEPT)) ?? [];
  } catch {
    return [];
  }
};

export const count = () => ({
  waiting: 0,
  timer: 0,
  sending: false,

  get waitingWords() {
    return this.waiting ? `${this.waiting} not sent yet; kept here and sent again.` : "";
  },

  init() {
    this.waiting = read().length;
    this.again = () => this.send();
    addEventListener("online", this.again);
    this.timer = setInterval(this.again, AGAIN_MS);
    if (this.waiting) this.send();
  },

  destroy() {
    removeEventListener("online", this.again);
    clearInterval(this.timer);
  },

  tap(event) {
    const button = event.currentTarget;
    const { csrfmiddlewaretoken, ...told } = Object.fromEntries(new FormData(button.form));
    if (told.bpm) told.bpm = this.tempo(told.bpm);
    this.keep([...read(), {
      ...told,
      key: crypto.randomUUID?.() ?? this.random(),
      result: button.dataset.result,
      cracked_to: button.dataset.cracked,
      made: new Date().toISOString(),
    }]);
    this.send();
  },

  // What the metronome is set to, within what a tempo may be; it may have been changed since the page came.
  tempo(bpm) {
    const set = Number.parseInt(this.$root.querySelector("[name=bpm][inputmode]")?.value, 10);
    return String(set >= 20 && set <= 400 ? set : bpm);
  },

  // Where a page is not served safely the browser makes no keys of its own.
  random() {
    const bytes = crypto.getRandomValues(new Uint8Array(16));
    return [...bytes].map((byte) => byte.toString(16).padStart(2, "0")).join("");
  },

  keep(attempts) {
    localStorage.setItem(KEPT, JSON.stringify(attempts));
    this.waiting = attempts.length;
  },

  // Those of one instrument at a time; what is refused is given up, or it would be sent for ever.
  async send() {
    const all = read();
    if (this.sending || !all.length) return;
    this.sending = true;
    const on = all[0].on;
    const some = all.filter((one) => one.on === on).slice(0, 500);
    try {
      const answer = await fetch(this.$root.dataset.log, {
        method: "POST",
        headers: { "Content-Type": "application/json", "X-CSRFToken": this.token() },
        body: JSON.stringify({ on, attempts: some }),
      });
      if (!answer.ok && ![404, 422].includes(answer.status)) throw new Error(answer.statusText);
      say(answer.ok ? "" : await this.wrong(answer));
      const sent = new Set(some.map((one) => one.key));
      this.keep(read().filter((one) => !sent.has(one.key)));
      if (on === this.$root.dataset.on) htmx.ajax("GET", location.search, { source: "#count-frame" });
    } catch {
      this.waiting = read().length;
    }
    this.sending = false;
    if (read().some((one) => !some.includes(one) && one.on !== on)) this.send();
  },

  async wrong(answer) {
    const { errors = [] } = await answer.json().catch(() => ({}));
    return `Not kept: ${errors.join(" ") || "that instrument is not there any more."}`;
  },

  token() {
    return this.$root.querySelector("[name=csrfmiddlewaretoken]").value;
  },
});
