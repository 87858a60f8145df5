// The bench: steps through notes and candidates, and puts in what the server sends back.
// Everything works without this script; with it the page is not loaded anew.
document.addEventListener("alpine:init", () => {
  Alpine.data("bench", () => ({
    ...swapping,

    init() {
      this.measure();
      this.show();
    },

    // The head of the inspector stays in view: a candidate scrolls to below it, however tall it is.
    measure() {
      const head = this.$root.querySelector(".note-top");
      if (head) this.$root.style.setProperty("--note-top", `${head.offsetHeight + 6}px`);
    },

    put(html, part, url) {
      const target = part === "inspector" ? document.getElementById("inspector") : this.$root;
      const focus = this.focusName();
      const scrolled = ["#score", ".side"].map((name) => [name, this.$root.querySelector(name).scrollTop]);
      const page = window.scrollY;
      target.innerHTML = html;
      for (const [name, top] of scrolled) this.$root.querySelector(name).scrollTop = top;
      window.scrollTo(0, page);
      this.measure();
      if (part === "inspector") {
        this.select(new URL(url).searchParams.get("note"));
        this.say(this.$root.querySelector(".slot.selected")?.getAttribute("aria-label") ?? "");
        if (new URL(url).searchParams.has("try")) this.tried()?.scrollIntoView({ block: "nearest" });
      }
      this.show();
      this.refocus(focus);
    },

    // Mark the note in the score that the inspector now shows.
    select(note) {
      for (const slot of this.$root.querySelectorAll(".slot")) {
        const here = slot.dataset.note === note;
        slot.classList.toggle("selected", here);
        if (here) slot.setAttribute("aria-current", "true");
        else slot.removeAttribute("aria-current");
        slot.setAttribute("tabindex", here ? "0" : "-1");
      }
      for (const field of this.$root.querySelectorAll('input[name="note"]')) field.value = note;
    },

    show() {
      this.$root.querySelector(".slot.selected")?.scrollIntoView({ block: "nearest" });
    },

    say(text) {
      this.$root.querySelector("#bench-status").textContent = text;
    },

    // A selector that finds a link or a button again after it has come anew.
    nameOf(there) {
      if (there.id) return `#${there.id}`;
      if (there.matches(".slot")) return `.slot[data-note="${CSS.escape(there.dataset.note)}"]`;
      if (there.dataset.tempo) return `[data-tempo="${there.dataset.tempo}"]`;
      if (there.dataset.step) return `[data-step="${there.dataset.step}"]`;
      const row = there.closest(".candidate");
      if (!row) return there.value ? `[name="action"][value="${there.value}"]` : null;
      const entry = `.candidate[data-entry="${CSS.escape(row.dataset.entry)}"]`;
      return there.value ? `${entry} [value="${there.value}"]` : `${entry} .try`;
    },

    focusName() {
      const here = document.activeElement;
      if (!here || !this.$root.contains(here)) return null;
      return here.matches(".slot") ? ".slot.selected" : this.nameOf(here);
    },

    refocus(name) {
      if (name) this.$root.querySelector(name)?.focus({ preventScroll: true });
    },

    onClick(event) {
      if (event.metaKey || event.ctrlKey || event.shiftKey) return;
      const tempo = event.target.closest("[data-tempo]");
      if (tempo) this.faster(Number(tempo.dataset.tempo));
      if (event.target.closest("[data-help]")) document.getElementById("keys-help").showModal();
      const link = event.target.closest("a.slot, a[data-swap]");
      if (!link) return;
      event.preventDefault();
      this.follow(link, "inspector", link.matches(".slot, [data-step]"));
    },

    onSubmit(event) {
      const form = event.target.closest("form[data-swap]");
      if (!form) return;
      event.preventDefault();
      this.submit(form, event.submitter, "bench");
    },

    onBack() {
      this.load(window.location.href, "bench", { push: false });
    },

    faster(step) {
      this.inTurn(() => {
        const field = this.$root.querySelector("#tempo");
        const now = Number(field.value);
        if (!Number.isFinite(now)) return;
        field.value = Math.min(400, Math.max(20, now + step));
        this.submit(field.form, null, "bench");
      });
    },

    step(where) {
      this.inTurn(() => {
        const slots = [...this.$root.querySelectorAll(".slot")];
        const now = slots.findIndex((slot) => slot.classList.contains("selected"));
        const to = { first: 0, last: slots.length - 1, before: now - 1, after: now + 1 }[where];
        const slot = slots[to];
        if (!slot) return;
        this.select(slot.dataset.note); // at once; what is said of the note follows
        this.show();
        this.load(new URL(slot.getAttribute("href"), window.location), "inspector");
      }, true);
    },

    candidates() {
      return [...this.$root.querySelectorAll(".candidate")];
    },

    tried() {
      return this.candidates().find((row) => row.classList.contains("tried"));
    },

    tryNext(step) {
      this.inTurn(() => {
        const rows = this.candidates();
        const to = rows[rows.indexOf(this.tried()) + step];
        if (to) this.load(new URL(to.dataset.try, window.location), "inspector");
      });
    },

    act(action) {
      this.inTurn(() => {
        const form = this.tried()?.querySelector("form");
        if (form) this.submit(form, null, "bench", { action });
      });
    },

    onKey(event) {
      if (event.metaKey || event.ctrlKey || event.altKey || document.querySelector("dialog[open]")) return;
      const at = event.target;
      if (at.matches("input, select, textarea, summary")) return;
      if (event.key === "Enter" && at.matches("button, a:not(.slot):not(.try)")) return;
      const does = {
        ArrowLeft: () => this.step("before"), PageUp: () => this.step("before"),
        ArrowRight: () => this.step("after"), PageDown: () => this.step("after"),
        Home: () => this.step("first"), End: () => this.step("last"),
        ArrowUp: () => this.tryNext(-1), ArrowDown: () => this.tryNext(1),
        Enter: () => this.act("pin"), x: () => this.act("ban"),
        "-": () => this.faster(-4), "+": () => this.faster(4), "=": () => this.faster(4),
        t: () => this.$root.querySelector("#tempo").select(),
        u: () => this.press('[data-key="u"]'), r: () => this.press('[data-key="r"]'),
        p: () => this.press('[data-key="p"]'),
        "?": () => document.getElementById("keys-help").showModal(),
      }[event.key];
      if (!does) return;
      event.preventDefault();
      does();
    },
  }));
});
