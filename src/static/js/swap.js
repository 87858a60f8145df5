// Ends when no finger or button is down: what is put in under a press would swallow its click.
let released = Promise.resolve();
document.addEventListener("pointerdown", () => {
  released = new Promise((done) => {
    const ended = () => setTimeout(done, 0); // the click comes first
    for (const name of ["pointerup", "pointercancel"]) document.addEventListener(name, ended, { once: true });
  });
});

// Parts of a page, put in as they come from the server. Shared by the bench and the Note view.
const swapping = {
  busy: null, // the call under way
  waiting: [], // what was asked for meanwhile

  // Do it now, or after what is under way: an answer may change what it acts on, so that no press is
  // lost or meets what is no longer there. What goes ahead need not wait for a mere look.
  inTurn(action, ahead = false) {
    const mayGo = ahead && !this.busy?.keeps && !this.waiting.length;
    if (!this.busy || mayGo) action();
    else if (this.waiting.length < 20) this.waiting.push(action);
  },

  // Fetch a part of the page and put it in; the address follows.
  async load(url, part, { push = true, ...options } = {}) {
    this.busy?.abort();
    const call = (this.busy = new AbortController());
    call.keeps = options.method === "POST";
    let answer, html;
    try {
      answer = await fetch(url, { ...options, headers: { "X-Part": part }, signal: call.signal });
      html = await answer.text();
      await released;
    } catch (error) {
      if (error.name === "AbortError") return;
      this.busy = null;
      this.waiting = [];
      this.say("No answer. Check that Fair Reach is running, then try again.");
      return;
    }
    if (call !== this.busy) return;
    const refused = answer.status === 422; // the part again, with what is wrong
    if ((!answer.ok && !refused) || answer.url.includes("/sign-in/")) {
      window.location.reload();
      return;
    }
    this.put(html, part, answer.url);
    if (answer.ok && push) history.pushState(null, "", answer.url);
    this.busy = null;
    while (!this.busy && this.waiting.length) this.waiting.shift()();
  },

  // Follow a link, or the one that stands in its place by then.
  follow(link, part, ahead = false) {
    const name = this.nameOf(link);
    this.inTurn(() => {
      const there = link.isConnected || !name ? link : this.$root.querySelector(name);
      if (there?.hasAttribute("href")) this.load(new URL(there.getAttribute("href"), window.location), part);
    }, ahead);
  },

  // Submit a form by one of its buttons; the form or the button may have come anew by then.
  submit(form, button, part, extra = {}) {
    const name = button ? this.nameOf(button) : null;
    this.inTurn(() => {
      const there = form.isConnected || !name ? form : this.$root.querySelector(name)?.form;
      if (!there) return;
      const data = new FormData(there);
      if (button?.name) data.set(button.name, button.value);
      for (const [field, value] of Object.entries(extra)) data.set(field, value);
      // form.action would be the button of that name
      this.load(there.getAttribute("action"), part, { method: "POST", body: data });
    });
  },

  press(selector) {
    const there = this.$root.querySelector(selector);
    if (there && !there.disabled) there.click();
  },
};
