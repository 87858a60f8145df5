// The bench: the note selected is marked at once, what is said of it follows.
import htmx from "htmx.org";
import { underWay } from "./parts.js";

// Every page tells how wide lines of music fit here; a score set for another width is asked for anew.
const telephone = matchMedia("(max-width: 640px)");

function fit(set) {
  const fits = telephone.matches ? "narrow" : "wide";
  document.cookie = `lines=${fits}; path=/; samesite=lax`;
  if (set && set !== fits && document.cookie.includes(fits)) location.replace(location.href);
}
fit();

export const bench = () => ({
  slots: [],
  at: 0,
  note: "", // of the slot marked
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
    this.slots = [...this.$root.querySelectorAll(".slot")];
    this.at = this.slots.findIndex((slot) => slot.matches(".selected"));
    this.note = this.slots[this.at]?.dataset.note;
  },

  arrived(event) {
    const { target, request } = event.detail.ctx;
    if (target.id === "bench") this.read();
    else if (request.action.includes("try=")) this.$root.querySelector(".tried").scrollIntoView({ block: "nearest" });
    this.showTried();
    this.show();
  },

  show() {
    this.slots[this.at]?.scrollIntoView({ block: "nearest" });
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
    this.look(this.slots.findIndex((slot) => slot.dataset.note === there.dataset.note), there.matches(".between"));
  },

  step(by) {
    this.look(this.at + by, Boolean(this.$root.querySelector("#inspector[data-link]")));
  },

  // One after the other what changed last; from the end on to the first again.
  change() {
    const changes = [...this.$root.querySelectorAll("[data-change]")];
    const at = changes.findIndex((change) => change.dataset.change === this.note);
    const next = changes[(at + 1) % changes.length];
    if (next) this.look(this.slots.findIndex((slot) => slot.dataset.note === next.dataset.change));
  },

  look(to, link = false) {
    if (!this.slots[to]) return;
    this.mark(this.slots[this.at], false);
    this.mark(this.slots[to], true);
    this.at = to;
    this.note = this.slots[to].dataset.note;
    this.folded = false;
    this.show();
    const address = this.slots[to].getAttribute("href") + (link ? "&link=into" : "");
    // at once, so that Back leads where it should before the answer is here; a run of steps is one place
    history[underWay ? "replaceState" : "pushState"]({ htmx: true }, "", address);
    htmx.ajax("GET", address, { source: "#score" });
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
