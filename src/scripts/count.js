// Counting: each press is kept in this browser at once, and sent when it can be.
import htmx from "htmx.org";
import { add, forgetRefused, localMoment, newKey, onChange, state, takeBack } from "./queue.js";

const presses = (number) => `${number} press${number === 1 ? "" : "es"}`;
const names = (rows, field) => [...new Set(rows.map((row) => row[field]).filter(Boolean))].join(", ");
const of = (rows) => (names(rows, "of") ? `${presses(rows.length)} of ${names(rows, "of")}` : presses(rows.length));

// Where nobody is signed in: whose presses wait here, without the names of students.
function forNobody(rows) {
  const [teachers, students] = [rows.filter((row) => row.who[0] === "t"), rows.filter((row) => row.who[0] === "p")];
  const called = names(teachers, "called");
  return [
    teachers.length && `Sign in${called && ` as ${called}`} to send ${presses(teachers.length)}, kept in this browser.`,
    students.length && `${presses(students.length)} of a student's page kept here: open it again to send.`,
  ].filter(Boolean).join(" ");
}

// What waits is said on every page, outside of what a page puts in its own place.
export const waiting = () => ({
  waiting: [],
  undone: 0,
  refused: [],
  stuck: "",

  get waitingWords() {
    if (!this.waiting.length) return this.undone ? "Taken back here; told when there is a connection." : "";
    if (!document.body.dataset.who) return forNobody(this.waiting);
    if (this.stuck === "sign-in") return `Sign in to send ${of(this.waiting)}, kept in this browser.`;
    if (this.stuck === "closed") return `${of(this.waiting)} kept here; this page is closed and takes no more.`;
    return `${of(this.waiting)} not sent yet; kept here and sent again.`;
  },

  init() {
    this.leave = onChange(() => this.look());
    this.look();
  },

  destroy() {
    this.leave();
  },

  async look() {
    const now = await state();
    Object.assign(this, now, { refused: now.refused.map((row) => `${row.says}: ${row.refused}`) });
  },

  seen() {
    forgetRefused();
  },
});

export const count = () => ({
  init() {
    this.sent = ({ detail }) => this.told(detail);
    document.addEventListener("presses-sent", this.sent);
  },

  destroy() {
    document.removeEventListener("presses-sent", this.sent);
  },

  tap(event) {
    const button = event.currentTarget;
    const { drawn, bpm } = Object.fromEntries(new FormData(button.form));
    add({
      drawn,
      key: newKey(),
      result: button.dataset.result,
      cracked_to: button.dataset.cracked ?? "",
      bpm: bpm && this.tempo(bpm),
      made: localMoment(),
      says: button.textContent.trim(),
      of: this.$root.dataset.of ?? "",
    });
  },

  takeBack(event) {
    const button = event.currentTarget;
    takeBack(new FormData(button.form).get("drawn"), button.value);
  },

  // What the metronome is set to, within what a tempo may be; it may have been changed since the page came.
  tempo(bpm) {
    const set = Number.parseInt(this.$root.querySelector("[name=bpm][inputmode]")?.value, 10);
    return String(set >= 20 && set <= 400 ? set : bpm);
  },

  // What the server makes of what is kept by now. On a student's page the cards stay where they are: each is
  // told its own count.
  told({ counted }) {
    if (!counted) return htmx.ajax("GET", location.pathname + location.search, { source: "#count-frame" });
    for (const [drawn, { words, last }] of Object.entries(counted)) {
      const card = [...this.$root.querySelectorAll("form")].find((form) => new FormData(form).get("drawn") === drawn);
      if (!card) continue;
      card.querySelector("[role=status]").textContent = words;
      card.querySelector("[name=back]").value = last;
    }
  },
});
