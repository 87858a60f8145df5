// The Note view: steps through notes and candidates, presses touches, and puts in what comes back.
document.addEventListener("alpine:init", () => {
  Alpine.data("note", () => ({
    busy: null,

    async load(url, options = {}) {
      this.busy?.abort();
      const call = (this.busy = new AbortController());
      let answer, html;
      try {
        answer = await fetch(url, { ...options, headers: { "X-Part": "note" }, signal: call.signal });
        html = await answer.text();
      } catch (error) {
        if (error.name === "AbortError") return;
        this.$root.querySelector("#note-status").textContent =
          "No answer. Check that Fair Reach is running, then try again.";
        return;
      }
      if (call !== this.busy) return;
      const refused = answer.status === 422; // the note again, with what is wrong
      if ((!answer.ok && !refused) || answer.url.includes("/sign-in/")) {
        window.location.reload();
        return;
      }
      this.put(html);
      if (answer.ok && options.push !== false) history.pushState(null, "", answer.url);
    },

    put(html) {
      const focus = this.focusName();
      const scrolled = [".side-by-side", ".side"].map((name) => [name, this.$root.querySelector(name).scrollTop]);
      this.$root.innerHTML = html;
      for (const [name, top] of scrolled) this.$root.querySelector(name).scrollTop = top;
      this.$root.querySelector(".note-card.tried")?.scrollIntoView({ block: "nearest" });
      if (focus) this.$root.querySelector(focus)?.focus({ preventScroll: true });
    },

    focusName() {
      const here = document.activeElement;
      if (!here || !this.$root.contains(here)) return null;
      if (here.id) return `#${here.id}`;
      if (here.dataset.touch) return `[data-touch="${CSS.escape(here.dataset.touch)}"]`;
      if (here.dataset.step) return `[data-step="${here.dataset.step}"]`;
      if (here.matches("[data-candidate]")) return ".note-card.tried [data-candidate]";
      return here.value ? `[name="action"][value="${here.value}"]` : null;
    },

    onClick(event) {
      if (event.metaKey || event.ctrlKey || event.shiftKey) return;
      if (event.target.closest("[data-help]")) document.getElementById("keys-help").showModal();
      const link = event.target.closest("a[data-swap]");
      if (!link) return;
      event.preventDefault();
      this.load(new URL(link.getAttribute("href"), window.location));
    },

    onSubmit(event) {
      const form = event.target.closest("form[data-swap]");
      if (!form) return;
      event.preventDefault();
      const data = new FormData(form);
      const button = event.submitter;
      // Enter in a field submits with the form's own action
      const action = button?.name ? button : form.querySelector('button[name="action"]');
      if (action) data.set(action.name, action.value);
      this.load(form.getAttribute("action"), { method: "POST", body: data });
    },

    onBack() {
      this.load(window.location.href, { push: false });
    },

    press(selector) {
      this.$root.querySelector(selector)?.click();
    },

    tryNext(step) {
      const links = [...this.$root.querySelectorAll("[data-candidate]")];
      const now = links.findIndex((link) => link.hasAttribute("aria-current"));
      links[now + step]?.click();
    },

    onKey(event) {
      if (event.metaKey || event.ctrlKey || event.altKey || document.querySelector("dialog[open]")) return;
      const at = event.target;
      if (at.matches("input:not([type=radio]), select, textarea, summary")) return;
      if (at.matches("input[type=radio]") && event.key !== "?") return;
      if (event.key === "Enter" && at.matches("button, a")) return;
      const does = {
        ArrowLeft: () => this.press('[data-step="-1"]'), PageUp: () => this.press('[data-step="-1"]'),
        ArrowRight: () => this.press('[data-step="1"]'), PageDown: () => this.press('[data-step="1"]'),
        ArrowUp: () => this.tryNext(-1), ArrowDown: () => this.tryNext(1),
        Enter: () => this.press('[data-key="prefer"]'),
        j: () => this.$root.querySelector(".rating input")?.focus(),
        m: () => this.$root.querySelector("#readings")?.focus(),
        n: () => this.$root.querySelector("#other-note")?.focus(),
        "?": () => document.getElementById("keys-help").showModal(),
      }[event.key];
      if (!does) return;
      event.preventDefault();
      does();
    },
  }));
});
