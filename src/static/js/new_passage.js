// Shows what is read of a score while it is chosen or typed; nothing is saved.
document.addEventListener("alpine:init", () => {
  Alpine.data("newPassage", () => ({
    timer: null,
    call: null,

    look() {
      clearTimeout(this.timer);
      this.timer = setTimeout(() => this.ask(), 300);
    },

    async ask() {
      const form = this.$root;
      const data = new FormData(form);
      const preview = this.$refs.preview;
      if (!data.get("text").trim() && !data.get("file").size) {
        preview.textContent = "What is read appears here while you type.";
        return;
      }
      this.call?.abort();
      const call = (this.call = new AbortController());
      preview.setAttribute("aria-busy", "true");
      try {
        const answer = await fetch(form.dataset.preview, { method: "POST", body: data, signal: call.signal });
        const html = await answer.text();
        preview.innerHTML = html;
      } catch (error) {
        if (error.name === "AbortError") return;
        preview.textContent = "No answer. Check that Fair Reach is running, then try again.";
      }
      preview.removeAttribute("aria-busy");
    },
  }));
});
