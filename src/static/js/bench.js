// The bench: steps through notes and candidates, and puts in what the server sends back.
// Everything works without this script; with it the page is not loaded anew.
document.addEventListener("alpine:init", () => {
  Alpine.data("bench", () => ({
    busy: null,

    init() {
      this.show();
    },

    // Fetch a part of the page and put it in; the address follows.
    async load(url, part, options = {}) {
      this.busy?.abort();
      const call = (this.busy = new AbortController());
      let answer, html;
      try {
        answer = await fetch(url, { ...options, headers: { "X-Part": part }, signal: call.signal });
        html = await answer.text();
      } catch (error) {
        if (error.name === "AbortError") return;
        this.say("No answer. Check that Fair Reach is running, then try again.");
        return;
      }
      if (call !== this.busy) return;
      const refused = answer.status === 422; // the bench again, with what is wrong
      if ((!answer.ok && !refused) || answer.url.includes("/sign-in/")) {
        window.location.reload();
        return;
      }
      this.put(html, part, answer.url);
      if (answer.ok && options.push !== false) history.pushState(null, "", answer.url);
    },

    put(html, part, url) {
      const target = part === "inspector" ? document.getElementById("inspector") : this.$root;
      const focus = this.focusName();
      const scrolled = ["#score", ".side"].map((name) => [name, this.$root.querySelector(name).scrollTop]);
      const page = window.scrollY;
      target.innerHTML = html;
      for (const [name, top] of scrolled) this.$root.querySelector(name).scrollTop = top;
      window.scrollTo(0, page);
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

    focusName() {
      const here = document.activeElement;
      if (!here || !this.$root.contains(here)) return null;
      if (here.id) return `#${here.id}`;
      if (here.matches(".slot")) return ".slot.selected";
      if (here.dataset.tempo) return `[data-tempo="${here.dataset.tempo}"]`;
      if (here.dataset.step) return `[data-step="${here.dataset.step}"]`;
      const row = here.closest(".candidate");
      if (!row) return here.value ? `[name="action"][value="${here.value}"]` : null;
      const entry = `.candidate[data-entry="${CSS.escape(row.dataset.entry)}"]`;
      return here.value ? `${entry} [value="${here.value}"]` : `${entry} .try`;
    },

    refocus(name) {
      if (name) this.$root.querySelector(name)?.focus({ preventScroll: true });
    },

    send(form, extra = {}) {
      const data = new FormData(form);
      for (const [name, value] of Object.entries(extra)) data.set(name, value);
      // form.action would be the button of that name
      this.load(form.getAttribute("action"), "bench", { method: "POST", body: data });
    },

    onClick(event) {
      if (event.metaKey || event.ctrlKey || event.shiftKey) return;
      const tempo = event.target.closest("[data-tempo]");
      if (tempo) this.faster(Number(tempo.dataset.tempo));
      if (event.target.closest("[data-help]")) document.getElementById("keys-help").showModal();
      const link = event.target.closest("a.slot, a[data-swap]");
      if (!link) return;
      event.preventDefault();
      this.load(new URL(link.getAttribute("href"), window.location), "inspector");
    },

    onSubmit(event) {
      const form = event.target.closest("form[data-swap]");
      if (!form) return;
      event.preventDefault();
      const button = event.submitter;
      this.send(form, button?.name ? { [button.name]: button.value } : {});
    },

    onBack() {
      this.load(window.location.href, "bench", { push: false });
    },

    faster(step) {
      const field = this.$root.querySelector("#tempo");
      const now = Number(field.value);
      if (!Number.isFinite(now)) return;
      field.value = Math.min(400, Math.max(20, now + step));
      this.send(field.form);
    },

    step(where) {
      const slots = [...this.$root.querySelectorAll(".slot")];
      const now = slots.findIndex((slot) => slot.classList.contains("selected"));
      const to = { first: 0, last: slots.length - 1, before: now - 1, after: now + 1 }[where];
      const slot = slots[to];
      if (!slot) return;
      this.select(slot.dataset.note); // at once; what is said of the note follows
      this.show();
      this.load(new URL(slot.getAttribute("href"), window.location), "inspector");
    },

    candidates() {
      return [...this.$root.querySelectorAll(".candidate")];
    },

    tried() {
      return this.candidates().find((row) => row.classList.contains("tried"));
    },

    tryNext(step) {
      const rows = this.candidates();
      const to = rows[rows.indexOf(this.tried()) + step];
      if (!to) return;
      this.load(new URL(to.dataset.try, window.location), "inspector");
    },

    act(action) {
      const form = this.tried()?.querySelector("form");
      if (form) this.send(form, { action });
    },

    press(selector) {
      const there = this.$root.querySelector(selector);
      if (there && !there.disabled) there.click();
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
