// The Note view: steps through notes and candidates, presses touches, and puts in what comes back.
document.addEventListener("alpine:init", () => {
  Alpine.data("note", () => ({
    ...swapping,

    put(html) {
      const focus = this.focusName();
      const scrolled = [".side-by-side", ".side"].map((name) => [name, this.$root.querySelector(name).scrollTop]);
      this.$root.innerHTML = html;
      for (const [name, top] of scrolled) this.$root.querySelector(name).scrollTop = top;
      this.$root.querySelector(".tried")?.scrollIntoView({ block: "nearest" });
      if (focus) this.$root.querySelector(focus)?.focus({ preventScroll: true });
    },

    say(text) {
      this.$root.querySelector("#note-status").textContent = text;
    },

    // A selector that finds a link or a button again after it has come anew.
    nameOf(there) {
      if (there.id) return `#${there.id}`;
      for (const name of ["touch", "step", "source", "candidate"])
        if (there.dataset[name]) return `[data-${name}="${CSS.escape(there.dataset[name])}"]`;
      return there.value ? `[name="action"][value="${there.value}"]` : null;
    },

    focusName() {
      const here = document.activeElement;
      if (!here || !this.$root.contains(here)) return null;
      return here.matches("[data-candidate]") ? ".tried [data-candidate]" : this.nameOf(here);
    },

    onClick(event) {
      if (event.metaKey || event.ctrlKey || event.shiftKey) return;
      if (event.target.closest("[data-help]")) document.getElementById("keys-help").showModal();
      const link = event.target.closest("a[data-swap]");
      if (!link) return;
      event.preventDefault();
      this.follow(link, "note");
    },

    onSubmit(event) {
      const form = event.target.closest("form[data-swap]");
      if (!form) return;
      event.preventDefault();
      // Enter in a field submits with the form's own action
      this.submit(form, event.submitter?.name ? event.submitter : form.querySelector('[name="action"]'), "note");
    },

    onBack() {
      this.load(window.location.href, "note", { push: false });
    },

    tryNext(step) {
      this.inTurn(() => {
        const links = [...this.$root.querySelectorAll("[data-candidate]")];
        const now = links.findIndex((link) => link.hasAttribute("aria-current"));
        links[now + step]?.click();
      });
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
        l: () => this.press(".tried [data-sound]"),
        n: () => this.$root.querySelector("#other-note")?.focus(),
        "?": () => document.getElementById("keys-help").showModal(),
      }[event.key];
      if (!does) return;
      event.preventDefault();
      does();
    },
  }));
});
