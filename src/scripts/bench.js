// The bench: the note selected is marked at once, what is said of it follows.
import htmx from "htmx.org";
import { inWindow } from "./lines.js";
import { underWay } from "./parts.js";

// Every page tells how wide lines of music fit here; a score set for another width is asked for anew.
const telephone = matchMedia("(max-width: 640px)");

function fit(set) {
  const fits = telephone.matches ? "narrow" : "wide";
  document.cookie = `lines=${fits}; path=/; samesite=lax`;
  if (set && set !== fits && document.cookie.includes(fits)) location.replace(location.href);
}
fit();

// The note that a next step would lead to is asked for ahead, so that its words stand at once. It is kept for
// that one step, and not for long: what is known may change in another window.
const KEPT_MS = 20_000;
let ahead = null; // { address, answer, until }

function askAhead(address, { request }) {
  const { headers, credentials } = request;
  const { pathname, search } = new URL(address, document.baseURI);
  ahead = { address: pathname + search, answer: fetch(address, { headers, credentials }), until: Date.now() + KEPT_MS };
  ahead.answer.catch(() => {}); // where none comes it is asked for again, and said
}

document.addEventListener("htmx:before:request", ({ detail: { ctx } }) => {
  const found = ahead?.address === ctx.request.action && Date.now() < ahead.until && ahead.answer;
  if (ctx.request.method !== "GET" || found) ahead = null;
  if (found) ctx.fetch = (...asked) => found.then((answer) => (answer.ok ? answer : fetch(...asked)), () => fetch(...asked));
});

export const bench = () => ({
  notes: [], // of the whole score, in order, and the line of each
  lineOf: [],
  at: 0,
  note: "", // the one marked
  way: 1, // the last step's: forwards or back
  folded: false, // what is said of the note, on a telephone

  init() {
    history.replaceState({ htmx: true }, ""); // Back to it is htmx's, too
    fit(this.$root.dataset.lines);
    telephone.addEventListener("change", () => fit(this.$root.dataset.lines));
    this.read();
    this.show();
    this.showTried();
  },

  // The notes of the score, once for each score: a step costs the same in a long passage as in a short one.
  read() {
    const lines = [...this.$root.querySelectorAll("[data-line]")];
    const notes = lines.map((line) => line.dataset.notes.split(" ").filter(Boolean));
    this.notes = notes.flat();
    this.lineOf = notes.flatMap((some, n) => some.map(() => lines[n]));
    this.at = this.notes.indexOf(this.$root.dataset.at);
    this.note = this.notes[this.at];
    this.leave?.();
    this.leave = inWindow(lines, this.$root.dataset.from, (line) => this.filled(line));
  },

  // A line has come into the document: it may be that of the note marked.
  filled(line) {
    for (const slot of line.querySelectorAll(".slot.selected")) this.mark(slot, false);
    if (line === this.lineOf[this.at]) this.mark(this.slot(), true);
  },

  slot(at = this.at) {
    return this.lineOf[at]?.querySelector(`.slot[data-note="${this.notes[at]}"]`);
  },

  arrived(event) {
    const { target, request } = event.detail.ctx;
    if (target.id === "bench") this.read();
    else if (request.action.includes("entry=")) this.$root.querySelector(".tried").scrollIntoView({ block: "nearest" });
    if (!["bench", "inspector"].includes(target.id)) return; // the strip comes by itself
    this.showTried();
    this.show();
    const next = this.notes[this.at + this.way];
    if (target.id === "inspector" && next) askAhead(this.address(next, this.atMove()), event.detail.ctx);
  },

  show() {
    (this.slot() ?? this.lineOf[this.at])?.scrollIntoView({ block: "nearest" });
  },

  // Where the candidates scroll by themselves, the one looked at is in view.
  showTried() {
    const tried = this.$root.querySelector(".candidate.tried");
    const list = tried?.closest("#under");
    if (!list) return;
    const [card, frame] = [tried.getBoundingClientRect(), list.getBoundingClientRect()];
    if (card.top < frame.top || card.bottom > frame.bottom) list.scrollTop += card.top - frame.top - 8;
  },

  pick(event) {
    const there = event.target.closest(".slot, .between");
    if (!there || event.metaKey || event.ctrlKey || event.shiftKey) return;
    event.preventDefault();
    this.look(this.notes.indexOf(there.dataset.note), there.matches(".between"));
  },

  step(by) {
    this.way = by;
    if (this.at + by >= 0) this.look(this.at + by, this.atMove());
  },

  // Whether a move is looked at: stepping goes on from move to move.
  atMove() {
    return Boolean(this.$root.querySelector("#inspector[data-move]"));
  },

  address(note, move) {
    return this.$root.dataset.address + encodeURIComponent(note) + (move ? "&move=into" : "");
  },

  // One after the other what changed last; from the end on to the first again.
  change() {
    const changes = [...this.$root.querySelectorAll("[data-change]")];
    const at = changes.findIndex((change) => change.dataset.change === this.note);
    const next = changes[(at + 1) % changes.length];
    if (next) this.look(this.notes.indexOf(next.dataset.change));
  },

  // Look at a note by its place, from the end if it is below 0.
  look(to, move = false) {
    const at = to < 0 ? this.notes.length + to : to;
    if (!this.notes[at]) return;
    this.mark(this.slot(), false);
    this.at = at;
    this.note = this.notes[at];
    this.mark(this.slot(), true);
    this.folded = false;
    this.show();
    const address = this.address(this.note, move);
    // at once, so that Back leads where it should before the answer is here; a run of steps is one place
    history[underWay ? "replaceState" : "pushState"]({ htmx: true }, "", address);
    htmx.ajax("GET", address, { source: "#score" });
  },

  // The other version, at the note that is marked by now.
  byTurns() {
    return this.$el.dataset.other + encodeURIComponent(this.note);
  },

  mark(slot, here) {
    if (!slot) return;
    const focused = document.activeElement?.matches(".slot");
    slot.classList.toggle("selected", here);
    if (here) slot.setAttribute("aria-current", "true");
    else slot.removeAttribute("aria-current");
    slot.setAttribute("tabindex", here ? "0" : "-1");
    if (here && focused) slot.focus({ preventScroll: true });
  },
});
